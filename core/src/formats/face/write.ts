import Papa from 'papaparse';
import { FACE_FORMAT } from './json';

/** Values of named channels at their times: what a face recording, or a character's face, is written from. */
interface Channels {
  readonly channels: readonly string[];
  /** Seconds. */
  readonly times: ArrayLike<number>;
  /** Times × channels. */
  readonly values: ArrayLike<number>;
}

const rounded = (value: number, places: number): number => Number(value.toFixed(places));

/** A table of channels as comma-separated values with a column of seconds; holes are empty cells. */
export function faceCsv({ channels, times, values }: Channels): string {
  const rows = Array.from(times, (time, r) => [
    rounded(time, 6),
    ...channels.map((_, c) => (Number.isFinite(values[r * channels.length + c]) ? rounded(values[r * channels.length + c], 6) : '')),
  ]);
  return `${Papa.unparse([['time', ...channels], ...rows], { newline: '\n' })}\n`;
}

/** The same as a face table of ours. @param rate frames a second; the times are even */
export function faceJson({ channels, times, values }: Channels, rate: number): string {
  const column = (c: number): (number | null)[] =>
    Array.from(times, (_, r) => {
      const value = values[r * channels.length + c];
      return Number.isFinite(value) ? rounded(value, 6) : null;
    });
  const table = {
    format: FACE_FORMAT,
    version: 1,
    rate,
    start: times[0],
    channels: Object.fromEntries(channels.map((name, c) => [name, column(c)])),
  };
  return `${JSON.stringify(table)}\n`;
}
