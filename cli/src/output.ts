/** Where a command writes; tests put their own in place. */
export interface Output {
  out(text: string): void;
  err(text: string): void;
}

/** The terminal. */
export const CONSOLE: Output = {
  out: (text) => process.stdout.write(`${text}\n`),
  err: (text) => process.stderr.write(`${text}\n`),
};
