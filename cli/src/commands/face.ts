import { extname } from 'node:path';
import {
  cleanFace,
  driveShapes,
  DEFAULT_NAME_TABLE,
  FACE_REASONS,
  faceCsv,
  faceJson,
  fail,
  findFaceFaults,
  jointKeys,
  parseNameTable,
  resolveTable,
  sumText,
  writeNameTable,
  type NameTable,
  type ResolvedTable,
} from '@hollow-stride/core';
import { stem } from '../inputs';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

export interface FaceOptions {
  readonly character: string;
  readonly names?: string;
  readonly saveNames?: string;
  readonly out?: string;
  readonly fps?: number;
  readonly exchange?: boolean;
  readonly json?: boolean;
}

/** Says which channels of a recording drive which shapes of a character, and writes the driven shapes as a table of their own. */
export async function faceCommand(recording: string, options: FaceOptions, output: Output, workspace: Workspace): Promise<void> {
  const kind = options.out === undefined ? undefined : extname(options.out).toLowerCase();
  if (kind !== undefined && kind !== '.csv' && kind !== '.json') fail('option', `--out must end in .csv or .json, not "${options.out}"`);
  for (const [what, path] of [
    ['the recording', recording],
    ['--character', options.character],
    ['--names', options.names],
  ] as const)
    workspace.input(path, what);
  workspace.output(options.out, '--out');
  workspace.output(options.saveNames, '--save-names');
  const track = await workspace.face(recording, 'the recording');
  const character = await workspace.load(options.character, '--character');
  const given = options.names ? parseNameTable(await workspace.text(options.names, '--names'), options.names).table : DEFAULT_NAME_TABLE;
  const table: NameTable = { ...given, exchange: options.exchange ?? given.exchange };
  const resolved = resolveTable(track.channels, character.shapes ?? [], jointKeys(character.skeleton), table);
  if (options.out) {
    if (resolved.rows.length === 0)
      fail('face/none', 'the character has no face shapes, so that there is no table to write', { file: character.name });
    const clean = cleanFace(track, { rate: options.fps ?? null, spikes: false, smooth: null });
    const length = { frames: clean.frames, frameTime: clean.frameTime };
    const { weights } = driveShapes(clean, resolved, { first: clean.start, step: clean.frameTime }, length);
    const columns = { channels: weights.shapes, times: weights.times.map((time) => time + clean.start), values: weights.values };
    await workspace.save(options.out, '--out', kind === '.csv' ? faceCsv(columns) : faceJson(columns, 1 / clean.frameTime));
  }
  if (options.saveNames) {
    // As it stands, so that the next recording of this kind is read the same whatever its names would propose.
    const rows = Object.fromEntries(
      resolved.rows.map(({ shape, reason: _, likeness: __, from, ...row }) => [shape, { ...row, from: [...from] }]),
    );
    await workspace.save(options.saveNames, '--save-names', writeNameTable(stem(options.saveNames), { ...table, propose: false, rows }));
  }
  const faults = findFaceFaults(track);
  if (options.json) {
    output.out(JSON.stringify({ ...resolved, faults, frames: track.frames, fps: 1 / track.frameTime }, null, 2));
    return;
  }
  output.out(`${recording}: ${track.channels.length} channels, ${track.frames} frames at ${(1 / track.frameTime).toFixed(2)} a second`);
  for (const line of describe(resolved)) output.out(line);
  for (const { message } of faults) output.out(`  caution    ${message}`);
  if (options.out) output.out(`${options.out} written`);
}

function describe({ rows, joints, left }: ResolvedTable): string[] {
  return [
    ...rows.map(
      ({ shape, from, reason }) => `  ${shape.padEnd(24)} ${from.length > 0 ? `${sumText(from)}  (${FACE_REASONS[reason]})` : '–'}`,
    ),
    ...joints.map(({ joint, turns }) => `  ${joint.padEnd(24)} turned by ${turns.map(({ from }) => sumText(from)).join(', ')}`),
    ...(left.length > 0 ? [`  ${left.length} channels drive nothing: ${left.join(', ')}`] : []),
  ];
}
