import { MAX_FRAMES, makeContinuous, type Clip } from '../../clip';
import { asFaultError, fail, type Fault } from '../../errors';
import { fromAxisAngle, mul, mulInv } from '../../math/quat';
import { DEG } from '../../math/trig';
import { makeSkeleton, type Skeleton } from '../../skeleton';
import type { BvhLayout } from '../bvh/layout';
import { MAX_VALUE, MotionBudget } from '../limits';
import type { MotionFile } from '../motionFile';
import { readAcclaimSkeleton, type AcclaimBone, type AcclaimSkeleton, type Line } from './skeleton';

/** Acclaim motion says no frame rate; this is what such recordings usually have. */
const USUAL_RATE = 120;

/** True for text that begins as an Acclaim skeleton does. */
export function looksLikeAcclaim(head: string): boolean {
  return /^(\s*#[^\n]*\n|\s)*:(version|name|units|documentation|root|bonedata)\b/i.test(head);
}

/** True for text that begins as Acclaim motion without its skeleton does. */
export function looksLikeAcclaimMotion(head: string): boolean {
  return /^(\s*#[^\n]*\n|\s)*:(fully-specified|degrees|radians)\b/i.test(head);
}

/** An Acclaim recording is two files; we keep them as one: the skeleton's text, then the motion's. */
export function joinAcclaim(skeleton: Uint8Array, motion: Uint8Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(skeleton.length + 1 + motion.length);
  out.set(skeleton);
  out[skeleton.length] = 0x0a;
  out.set(motion, skeleton.length + 1);
  return out;
}

/**
 * Reads an Acclaim skeleton (ASF), with the motion (AMC) that follows it in the same text where there is one.
 *
 * A bone becomes the joint at its own beginning, where its parent's bone ends. Its local turn is C·M·C⁻¹, where C are the
 * bone's axes in the world and M the turn that the motion gives about them; at rest nothing is turned.
 * @throws FaultError acclaim/syntax, skeleton/loop, clip/limit, with line, joint and frame
 */
export function readAcclaim(bytes: Uint8Array, name: string): MotionFile {
  try {
    const lines = splitLines(new TextDecoder().decode(bytes));
    const split = lines.findIndex(({ words }) => /^:(fully-specified|degrees|radians)$/i.test(words[0]));
    const source = readAcclaimSkeleton(split < 0 ? lines : lines.slice(0, split));
    const bones = inOrder(source);
    const { skeleton, layout } = build(source, bones);
    const warnings: Fault[] = [];
    const clips = split < 0 ? [] : [readMotion(lines.slice(split), bones, skeleton, name, warnings)];
    return {
      name,
      format: 'acclaim',
      skeleton,
      clips,
      warnings,
      layout,
      unitHint: { metres: source.metres, reason: 'the skeleton file says its unit' },
    };
  } catch (error) {
    throw asFaultError(error, name);
  }
}

function splitLines(text: string): Line[] {
  const lines: Line[] = [];
  text.split(/\r\n|\r|\n/).forEach((line, i) => {
    const words = line
      .replace(/[#].*$/, '')
      .trim()
      .split(/\s+/);
    if (words[0] !== '') lines.push({ number: i + 1, words });
  });
  return lines;
}

/** Root and bones with parents before children. */
function inOrder({ root, bones, parents }: AcclaimSkeleton): AcclaimBone[] {
  const children = new Map<string, AcclaimBone[]>();
  for (const bone of bones) {
    const parent = parents.get(bone.name);
    if (parent === undefined) fail('acclaim/syntax', 'the hierarchy does not name this bone', { line: bone.line, joint: bone.name });
    children.set(parent, [...(children.get(parent) ?? []), bone]);
  }
  const order: AcclaimBone[] = [];
  const stack: AcclaimBone[] = [root];
  for (let bone = stack.pop(); bone; bone = stack.pop()) {
    order.push(bone);
    stack.push(...(children.get(bone.name) ?? []).reverse());
  }
  const lost = bones.find((bone) => !order.includes(bone));
  if (lost) fail('skeleton/loop', 'the bone does not hang on the root', { line: lost.line, joint: lost.name });
  return order;
}

function build({ root, parents }: AcclaimSkeleton, bones: readonly AcclaimBone[]): { skeleton: Skeleton; layout: BvhLayout } {
  const index = new Map(bones.map(({ name }, j) => [name, j]));
  const parentOf = bones.map(({ name }) => (name === 'root' ? -1 : index.get(parents.get(name)!)!));
  const end = ({ direction, length }: AcclaimBone): number[] => direction.map((v) => v * length);
  const restT = bones.flatMap((_, j) => (parentOf[j] < 0 ? [...root.position] : end(bones[parentOf[j]])));
  const isLeaf = bones.map((_, j) => !parentOf.includes(j));
  const tips = bones.flatMap((bone, j) => (isLeaf[j] ? end(bone) : [NaN, NaN, NaN]));
  const skeleton = makeSkeleton({ names: bones.map(({ name }) => name), parents: parentOf, restT, tips });
  return {
    skeleton,
    layout: {
      format: 'bvh',
      channels: parentOf.map((parent) => (parent < 0 ? [0, 1, 2, 5, 3, 4] : [5, 3, 4])),
      offsets: skeleton.restT.slice(),
      fromOffset: new Uint8Array(bones.length),
      endSites: bones.map((bone, j) => (isLeaf[j] ? end(bone) : [])),
    },
  };
}

/** A turn made of angles about fixed axes, the first applied first. */
function euler(out: Float64Array, axes: string, angles: readonly number[]): void {
  out.set([0, 0, 0, 1]);
  for (let i = 0; i < axes.length; i++) {
    const c = axes[i];
    fromAxisAngle(TURN, 0, c === 'x' ? 1 : 0, c === 'y' ? 1 : 0, c === 'z' ? 1 : 0, angles[i]);
    mul(out, 0, TURN, 0, out, 0);
  }
}

const TURN = new Float64Array(4);

function readMotion(lines: readonly Line[], bones: readonly AcclaimBone[], skeleton: Skeleton, name: string, warnings: Fault[]): Clip {
  const joints = bones.length;
  const index = new Map(bones.map((bone, j) => [bone.name, j]));
  const frameLines = lines.flatMap(({ words }, i) => (words.length === 1 && /^\d+$/.test(words[0]) ? [i] : []));
  const frames = frameLines.length;
  if (frames === 0) fail('clip/none', 'the motion holds no frame', { line: lines[0].number });
  if (frames > MAX_FRAMES) fail('clip/limit', `${frames} frames; at most ${MAX_FRAMES} are read. Split the take`);
  new MotionBudget().take(name, frames, joints, bones.filter(({ dof }, j) => j === 0 || dof.some((d) => d.startsWith('t'))).length);
  const isDegrees = !lines.some(({ words }) => /^:radians$/i.test(words[0]));
  const angle = isDegrees ? DEG : 1;
  const axes = bones.map((bone) => {
    const q = new Float64Array(4);
    euler(q, bone.axisOrder, bone.axis);
    return q;
  });
  const rotations = new Float32Array(frames * joints * 4);
  const moving = bones.map(({ dof }) => dof.some((d) => d.startsWith('t')));
  const moves = bones.flatMap((_, j) => (j === 0 || moving[j] ? [{ joint: j, values: new Float32Array(frames * 3) }] : []));
  const trackOf = new Map(moves.map((track) => [track.joint, track.values]));
  const q = new Float64Array(4);
  const seen = new Uint8Array(joints);
  for (let f = 0; f < frames; f++) {
    const number = Number(lines[frameLines[f]].words[0]);
    const until = f + 1 < frames ? frameLines[f + 1] : lines.length;
    seen.fill(0);
    // A bone that a frame leaves out stands at rest.
    for (let j = 0; j < joints; j++) rotations[(f * joints + j) * 4 + 3] = 1;
    for (const { joint, values } of moves) values.set(skeleton.restT.subarray(joint * 3, joint * 3 + 3), f * 3);
    for (let i = frameLines[f] + 1; i < until; i++) {
      const { words, number: line } = lines[i];
      const j = index.get(words[0]);
      const where = { line, frame: number };
      if (j === undefined)
        fail('acclaim/parts', `the motion moves a bone that the skeleton does not have; is this its skeleton?`, {
          ...where,
          joint: words[0],
        });
      if (seen[j]) fail('acclaim/syntax', 'the frame gives this bone twice', { ...where, joint: words[0] });
      seen[j] = 1;
      const { dof } = bones[j];
      if (words.length - 1 !== dof.length) {
        fail('acclaim/parts', `the bone has ${dof.length} channels and the frame gives ${words.length - 1} values`, {
          ...where,
          joint: words[0],
        });
      }
      const turns: number[] = [];
      let order = '';
      const values = trackOf.get(j);
      dof.forEach((channel, k) => {
        const value = Number(words[k + 1]);
        if (!Number.isFinite(value))
          fail('acclaim/syntax', `"${words[k + 1].slice(0, 40)}" is not a number`, { ...where, joint: words[0] });
        if (Math.abs(value) > MAX_VALUE)
          fail('acclaim/syntax', `${words[k + 1].slice(0, 40)} is beyond any body`, { ...where, joint: words[0] });
        if (channel.startsWith('r')) {
          order += channel[1];
          turns.push(value * angle);
        } else if (channel.startsWith('t') && values) values[f * 3 + 'xyz'.indexOf(channel[1])] += value;
      });
      euler(q, order, turns);
      mul(q, 0, axes[j], 0, q, 0);
      mulInv(q, 0, q, 0, axes[j], 0);
      rotations.set(q, (f * joints + j) * 4);
    }
  }
  makeContinuous(rotations, joints);
  warnings.push({ code: 'option', message: `Acclaim motion says no frame rate; ${USUAL_RATE} frames a second are taken`, where: {} });
  return { name: name.replace(/\.[^.]*$/, ''), frameTime: 1 / USUAL_RATE, frames, rotations, moves };
}
