import Papa from 'papaparse';
import { fail } from '../../errors';
import { evenTrack } from './even';
import { MAX_CHANNELS, type FaceTrack } from './track';

/** Words that head a column of times, and what one unit of it is in seconds; frames and time codes need a rate. */
const TIMES: readonly (readonly [RegExp, number | 'frame' | 'code'])[] = [
  [/^(time|t|secs?|seconds?|timestamp|time ?\(?(s|sec|seconds)\)?)$/i, 1],
  [/^(ms|msecs?|milliseconds?|time ?\(?(ms|milliseconds)\)?)$/i, 1e-3],
  [/^(time ?code|tc)$/i, 'code'],
  [/^(frames?|frame ?(number|index|no\.?)|index)$/i, 'frame'],
];
/** Frames a second of tables that count frames and do not say how many there are in a second. */
const USUAL_RATE = 60;

/**
 * Reads a table of face channels: a head of names, a column of times (seconds, milliseconds, a time code or frame numbers),
 * the other columns of numbers each a channel. Empty cells are holes; columns without any number are left out.
 * @throws FaultError face/table with the line
 */
export function readFaceCsv(text: string, name: string): FaceTrack {
  const { data } = Papa.parse<string[]>(text, { skipEmptyLines: false, delimiter: separatorOf(text) });
  let headLine = data.findIndex((row) => row.some((cell) => cell.trim() !== ''));
  // A line of notes before the head has no column of times.
  const found = data.slice(0, HEAD_WITHIN).findIndex(namesTime);
  if (found >= 0) headLine = found;
  if (headLine < 0) fail('face/table', 'the table is empty');
  const head = data[headLine].map(tidy);
  const column = head.findIndex((cell) => TIMES.some(([pattern]) => pattern.test(cell)));
  if (column < 0) {
    fail('face/table', 'no column is headed "time", "timecode" or "frame"; name the column that holds the time', { line: headLine + 1 });
  }
  if (head.length > 4 * MAX_CHANNELS) fail('face/table', `${head.length} columns are more than any face has`, { line: headLine + 1 });
  const unit = TIMES.find(([pattern]) => pattern.test(head[column]))![1];
  const rows: number[] = [];
  for (let r = headLine + 1; r < data.length; r++) if (data[r].some((cell) => cell.trim() !== '')) rows.push(r);
  const times = timesOf(
    rows.map((r) => data[r][column] as string | undefined),
    unit,
    (i) => rows[i] + 1,
  );
  const others = head.map((_, c) => c).filter((c) => c !== column);
  const cells = others.map((c) => rows.map((r) => numberOf(data[r][c] as string | undefined, r + 1, head[c])));
  // A second column of times or a count that stands still is no part of the face.
  const kept = others.map((c, i) => ({ c, i })).filter(({ c, i }) => head[c] !== '' && !isAside(head[c]) && cells[i].some(Number.isFinite));
  const values = new Float64Array(rows.length * kept.length);
  kept.forEach(({ i }, k) => rows.forEach((_, r) => (values[r * kept.length + k] = cells[i][r])));
  return evenTrack(name, { channels: kept.map(({ c }) => head[c]), times, values, lineOf: (row) => rows[row] + 1 });
}

/** Lines within which the head is looked for: notes may stand before it. */
const HEAD_WITHIN = 40;
const namesTime = (row: readonly string[]): boolean => row.some((cell) => TIMES.some(([pattern]) => pattern.test(tidy(cell))));

/** The mark that parts the head into most cells, one of which names a time. */
function separatorOf(text: string): string {
  const lines = text.slice(0, 100_000).split(/\r\n?|\n/, HEAD_WITHIN);
  const cells = (mark: string): number =>
    Math.max(
      0,
      ...lines
        .map((line) => line.split(mark).map((cell) => cell.replace(/^"|"$/g, '')))
        .filter(namesTime)
        .map((row) => row.length),
    );
  return [',', ';', '\t', '|'].reduce((best, mark) => (cells(mark) > cells(best) ? mark : best));
}

const tidy = (cell: string): string => cell.replace(/^\uFEFF/, '').trim();
const isAside = (head: string): boolean =>
  TIMES.some(([pattern]) => pattern.test(head)) || /^(blend ?shape|channel|shape|morph) ?(count|number)$/i.test(head);

/** A cell's number; decimal commas are read, an empty cell is a hole. @throws FaultError face/table for a cell that is neither */
function numberOf(cell: string | undefined, line: number, column: string): number {
  const text = cell?.trim() ?? '';
  if (text === '' || /^(nan|null|none|-|n\/a)$/i.test(text)) return NaN;
  const value = Number(/^[-+]?\d*,\d+$/.test(text) ? text.replace(',', '.') : text.replace(/%$/, ''));
  if (Number.isFinite(value)) return text.endsWith('%') ? value / 100 : value;
  // Words in a column (a name, a note) are no channel; among numbers one is a fault of the file.
  if (/^[^\d]*$/.test(text)) return NaN;
  return fail('face/table', `"${text.slice(0, 40)}" in column "${column.slice(0, 60)}" is no number`, { line });
}

function timesOf(cells: readonly (string | undefined)[], unit: number | 'frame' | 'code', lineOf: (row: number) => number): Float64Array {
  const texts = cells.map((cell) => cell?.trim() ?? '');
  const codes = unit === 'code' || texts.some((text) => text.includes(':'));
  const parts = codes ? texts.map((text, i) => codeOf(text, lineOf(i))) : [];
  // The highest frame that a time code counts to within a second says how many there are.
  const most = parts.reduce((top, { frame }) => Math.max(top, Math.floor(frame)), 0);
  const rate = [24, 25, 30, 48, 50, 60, 90, 100, 120].find((one) => most < one) ?? most + 1;
  return Float64Array.from(texts, (text, i) => {
    if (codes) return parts[i].seconds + parts[i].frame / rate;
    const value = Number(/^[-+]?\d*,\d+$/.test(text) ? text.replace(',', '.') : text);
    if (text === '' || !Number.isFinite(value)) fail('face/table', `"${text.slice(0, 40)}" is no time`, { line: lineOf(i) });
    return unit === 'frame' ? value / USUAL_RATE : value * (typeof unit === 'number' ? unit : 1);
  });
}

/** hours:minutes:seconds:frames, or hours:minutes:seconds.part. */
function codeOf(text: string, line: number): { seconds: number; frame: number } {
  const match = /^(\d{1,3}):(\d{1,2}):(\d{1,2}(?:\.\d+)?)(?:[:;](\d{1,3}(?:\.\d+)?))?$/.exec(text);
  if (!match) fail('face/table', `"${text.slice(0, 40)}" is no time code; hours:minutes:seconds:frames is read`, { line });
  return { seconds: Number(match[1]) * 3600 + Number(match[2]) * 60 + Number(match[3]), frame: Number(match[4] ?? 0) };
}
