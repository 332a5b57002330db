/** Where a command writes; tests put their own in place. */
export interface Output {
  out(text: string): void;
  err(text: string): void;
}
