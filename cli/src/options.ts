import { InvalidArgumentError } from 'commander';

/** A number above zero, at most 1000. */
export function positive(text: string): number {
  const value = Number(text);
  if (!(value > 0) || value > 1000) throw new InvalidArgumentError('It must be a number above 0 and at most 1000.');
  return value;
}
