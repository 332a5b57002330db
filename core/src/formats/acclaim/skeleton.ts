import { fail } from '../../errors';
import { DEG } from '../../math/trig';
import { MAX_JOINTS } from '../../skeleton';

/** One bone of an Acclaim skeleton file, as written. */
export interface AcclaimBone {
  readonly name: string;
  /** Line on which the bone begins, from 1. */
  readonly line: number;
  /** Unit direction in the world at rest, and length in file units. */
  readonly direction: readonly [number, number, number];
  readonly length: number;
  /** Euler angles, radians, of the bone's own axes in the world, applied in the order of `axisOrder`. */
  readonly axis: readonly [number, number, number];
  readonly axisOrder: string;
  /** Channels in the order of the motion file: 'rx', 'ty', 'l' … */
  readonly dof: readonly string[];
}

/** The skeleton part (ASF) of an Acclaim recording. */
export interface AcclaimSkeleton {
  readonly root: AcclaimBone & { readonly position: readonly [number, number, number] };
  readonly bones: readonly AcclaimBone[];
  /** Name of the parent of every bone. */
  readonly parents: ReadonlyMap<string, string>;
  /** Metres per unit as the `length` of `:units` says. */
  readonly metres: number;
  readonly isDegrees: boolean;
}

/** One line of text with its number, comments and blank lines left out. */
export interface Line {
  readonly number: number;
  readonly words: readonly string[];
}

const DOF = /^(t[xyz]|r[xyz]|l)$/;
const ORDER = /^[xyz]{3}$/;
const INCH = 0.0254;

/**
 * Reads the sections of an Acclaim skeleton file (Acclaim Advanced Technologies Group, ASF file specification, 1.10).
 * @throws FaultError acclaim/syntax, skeleton/limit, with the line
 */
export function readAcclaimSkeleton(lines: readonly Line[]): AcclaimSkeleton {
  const sections = splitSections(lines);
  let isDegrees = true;
  let unit = 1;
  for (const { words, number } of sections.get(':units') ?? []) {
    if (words[0] === 'angle') isDegrees = !/^rad/.test(words[1] ?? '');
    if (words[0] === 'length') unit = positive(words[1], number, 'length');
  }
  const angle = isDegrees ? DEG : 1;
  const root = readRoot(sections.get(':root') ?? missing(':root'), angle);
  const bones = readBones(sections.get(':bonedata') ?? missing(':bonedata'), angle);
  const parents = readHierarchy(sections.get(':hierarchy') ?? missing(':hierarchy'), bones);
  return { root, bones, parents, metres: INCH / unit, isDegrees };
}

function missing(section: string): never {
  fail('acclaim/syntax', `the skeleton has no ${section} section`);
}

function splitSections(lines: readonly Line[]): Map<string, Line[]> {
  const sections = new Map<string, Line[]>();
  let current: Line[] | undefined;
  for (const line of lines) {
    const head = line.words[0].toLowerCase();
    if (head.startsWith(':')) {
      current = [];
      sections.set(head, current);
    } else current?.push(line);
  }
  return sections;
}

function readRoot(lines: readonly Line[], angle: number): AcclaimSkeleton['root'] {
  let dof: string[] = [];
  let axisOrder = 'xyz';
  let position: readonly [number, number, number] = [0, 0, 0];
  let axis: readonly [number, number, number] = [0, 0, 0];
  for (const { words, number } of lines) {
    const [key, ...rest] = words;
    if (key === 'order') dof = rest.map((word) => checkDof(word, number));
    else if (key === 'axis') axisOrder = checkOrder(rest[0], number);
    else if (key === 'position') position = three(rest, number, 1);
    else if (key === 'orientation') axis = three(rest, number, angle);
  }
  if (dof.length === 0) fail('acclaim/syntax', 'the root has no order of channels', { line: lines[0]?.number });
  return { name: 'root', line: lines[0]?.number ?? 1, direction: [0, 1, 0], length: 0, axis, axisOrder, dof, position };
}

function readBones(lines: readonly Line[], angle: number): AcclaimBone[] {
  const bones: AcclaimBone[] = [];
  const names = new Set<string>(['root']);
  let open: { line: number; bone: Partial<{ -readonly [K in keyof AcclaimBone]: AcclaimBone[K] }> } | undefined;
  for (const { words, number } of lines) {
    const [key, ...rest] = words;
    if (key === 'begin') open = { line: number, bone: {} };
    else if (key === 'end') {
      if (!open) fail('acclaim/syntax', 'a bone ends that never began', { line: number });
      const { name, direction, length } = open.bone;
      if (!name) fail('acclaim/syntax', 'the bone has no name', { line: open.line });
      if (!direction || length === undefined)
        fail('acclaim/syntax', 'the bone has no direction or no length', { line: open.line, joint: name });
      if (names.has(name)) fail('acclaim/syntax', 'two bones have this name', { line: open.line, joint: name });
      if (bones.length + 1 >= MAX_JOINTS) fail('skeleton/limit', `more than ${MAX_JOINTS} bones`, { line: number });
      names.add(name);
      bones.push({ axis: [0, 0, 0], axisOrder: 'xyz', dof: [], ...open.bone, name, direction, length, line: open.line });
      open = undefined;
    } else if (open) {
      const { bone } = open;
      if (key === 'name') bone.name = rest.join(' ');
      else if (key === 'direction') bone.direction = unit(three(rest, number, 1));
      else if (key === 'length') bone.length = numberOf(rest[0], number, 'length');
      else if (key === 'axis') {
        bone.axis = three(rest, number, angle);
        bone.axisOrder = checkOrder(rest[3] ?? 'xyz', number);
      } else if (key === 'dof') bone.dof = rest.map((word) => checkDof(word, number));
    }
  }
  if (open) fail('acclaim/syntax', 'the file ends inside a bone', { line: open.line });
  if (bones.length === 0) fail('skeleton/none', 'the skeleton has no bones');
  return bones;
}

function readHierarchy(lines: readonly Line[], bones: readonly AcclaimBone[]): Map<string, string> {
  const known = new Set(bones.map(({ name }) => name));
  const parents = new Map<string, string>();
  for (const { words, number } of lines) {
    const [parent, ...children] = words;
    if (parent === 'begin' || parent === 'end') continue;
    if (parent !== 'root' && !known.has(parent))
      fail('acclaim/syntax', 'the hierarchy names a bone that does not exist', { line: number, joint: parent });
    for (const child of children) {
      if (!known.has(child)) fail('acclaim/syntax', 'the hierarchy names a bone that does not exist', { line: number, joint: child });
      if (parents.has(child)) fail('skeleton/loop', 'the bone has two parents', { line: number, joint: child });
      parents.set(child, parent);
    }
  }
  return parents;
}

function numberOf(word: string | undefined, line: number, what: string): number {
  const value = Number(word);
  if (word === undefined || word === '' || !Number.isFinite(value))
    fail('acclaim/syntax', `${what} needs a number, found "${(word ?? '').slice(0, 40)}"`, { line });
  return value;
}

function positive(word: string | undefined, line: number, what: string): number {
  const value = numberOf(word, line, what);
  return value > 0 ? value : fail('acclaim/syntax', `${what} must be more than 0`, { line });
}

function three(words: readonly string[], line: number, scale: number): readonly [number, number, number] {
  return [0, 1, 2].map((i) => numberOf(words[i], line, 'this line') * scale) as [number, number, number];
}

function unit(v: readonly [number, number, number]): readonly [number, number, number] {
  const n = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  return n < 1e-12 ? [0, 0, 0] : [v[0] / n, v[1] / n, v[2] / n];
}

function checkDof(word: string, line: number): string {
  const dof = word.toLowerCase();
  return DOF.test(dof) ? dof : fail('acclaim/syntax', `unknown channel "${word.slice(0, 40)}"`, { line });
}

function checkOrder(word: string | undefined, line: number): string {
  const order = (word ?? '').toLowerCase();
  return ORDER.test(order) ? order : fail('acclaim/syntax', `"${(word ?? '').slice(0, 40)}" is no order of axes; XYZ is one`, { line });
}
