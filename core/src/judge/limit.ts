/** Limits of figures: good up to one value, a fault from another; one place, with reasons. */
export interface Limit {
  readonly name: string;
  /** For people: what is measured. */
  readonly what: string;
  readonly unit: string;
  readonly places: number;
  readonly good: number;
  readonly fault: number;
  /** True where more is better. */
  readonly rising?: boolean;
  /** Why the limits stand where they stand. */
  readonly why: string;
}
