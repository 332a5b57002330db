import { InvalidArgumentError } from 'commander';

/** A number within limits, as an option's parser. */
export const within =
  (low: number, high: number) =>
  (text: string): number => {
    const value = Number(text);
    if (text.trim() === '' || !(value >= low && value <= high))
      throw new InvalidArgumentError(`It must be a number from ${low} to ${high}.`);
    return value;
  };

/** A whole number from 1. */
export function ordinal(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1 || value > 1000) throw new InvalidArgumentError('It must be a whole number from 1 to 1000.');
  return value;
}

/** Frames a second that a result may have, as everywhere in the program. */
export const rate = within(1, 480);
/** Millimetres by which keys may be off. */
export const tolerance = within(0.01, 100);
/** Seconds within any take. */
export const seconds = within(-1e6, 1e6);
