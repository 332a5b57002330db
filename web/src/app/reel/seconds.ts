/** Seconds to the millisecond: what people type and read. */
export const rounded = (seconds: number): number => Math.round(seconds * 1000) / 1000;
