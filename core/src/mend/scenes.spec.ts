// Scenes that the specs of layers and filters share: it has none of its own.
import { ClipReader, type Clip } from '../clip';
import { findContacts } from '../contact';
import { makePairing } from '../match';
import { quat } from '../math';
import { makeLayer, type Layer, type LayerEnd, type LayerKey } from '../recipe';
import { prepareRig, type Rig } from '../rig';
import { DEFAULT_SOLVE, solve } from '../solve';
import { makeFile, performerOf, randomShape, walk } from '../testing';
import { mend } from './mend';

export const FPS = 60;
export const FRAMES = 240;
export const timeOf = (frame: number): number => frame / FPS;

/** A walk solved onto a body of other proportions and other axes. */
export function sceneOf(seed: number) {
  const options = { clavicles: true, spine: 3, neck: 1, fingers: 2 };
  const shape = randomShape(seed, options);
  const { rig: performer, clip: take } = performerOf(shape, walk(shape, { seed, frames: FRAMES, fps: FPS, crouch: 0.06 }));
  const rig = prepareRig(makeFile(randomShape(seed + 70, options), { axes: seed }));
  const contacts = findContacts(performer, take);
  const { clip } = solve(makePairing(performer, rig), take, DEFAULT_SOLVE, { contacts });
  const read = (of: Clip): ClipReader => new ClipReader(rig.skeleton, of);
  return { rig, clip, contacts, read, lay: (...layers: Layer[]) => mend({ rig, clip, contacts, timeOf }, layers) };
}

/** How low heels and balls ever come, metres. */
export function lowestFoot({ skeleton, feet }: Rig, clip: Clip): number {
  const reader = new ClipReader(skeleton, clip);
  const out = new Float64Array(3);
  let low = Infinity;
  for (let f = 0; f < clip.frames; f++) {
    const { positions, rotations } = reader.at(f);
    for (const { foot, heel, ball } of feet) {
      for (const point of [heel, ball]) {
        quat.rotate(out, 0, rotations, foot * 4, point, 0);
        low = Math.min(low, positions[foot * 3 + 1] + out[1]);
      }
    }
  }
  return low;
}

export type Scene = ReturnType<typeof sceneOf>;
export const scenes = [11, 12, 13, 14].map(sceneOf);

export const key = (at: number, value: [number, number, number]): LayerKey => ({ at, value, tangent: 'smooth', slope: null });
export const always = (value: [number, number, number]): LayerKey[] => [key(0, value)];
export const turns = (role: string, keys: LayerKey[], more: Partial<Layer> = {}): Layer =>
  makeLayer({ name: role, does: { kind: 'turns', tracks: [{ role, keys }] }, ...more });
export const reach = (end: LayerEnd, keys: LayerKey[], more: Partial<Layer> = {}): Layer =>
  makeLayer({ name: end, does: { kind: 'reach', tracks: [{ end, keys }] }, ...more });
export const filters = (): Layer[] => [
  makeLayer({ name: 'calm', does: { kind: 'calm', seconds: 0.1 } }),
  makeLayer({ name: 'spikes', does: { kind: 'spikes' } }),
  makeLayer({ name: 'more', does: { kind: 'amount', factor: 1.6 } }),
  makeLayer({ name: 'mirror', does: { kind: 'mirror' } }),
  makeLayer({ name: 'bridge', does: { kind: 'bridge' }, mask: { from: 1, to: 1.5, fade: 0 } }),
];

/** The farthest that a joint is from where it was, metres; of frames in which it is asked for. */
export function away({ rig, read }: Scene, a: Clip, b: Clip, role: string, asked: (frame: number) => boolean = () => true): number {
  const joint = rig.roles.get(role)! * 3;
  const [one, other] = [read(a), read(b)];
  let most = 0;
  for (let f = 0; f < FRAMES; f++) {
    if (!asked(f)) continue;
    const [p, q] = [one.at(f).positions, other.at(f).positions];
    most = Math.max(most, Math.hypot(p[joint] - q[joint], p[joint + 1] - q[joint + 1], p[joint + 2] - q[joint + 2]));
  }
  return most;
}

export const same = (a: Clip, b: Clip): boolean =>
  a.rotations.every((x, i) => x === b.rotations[i]) && a.moves.every(({ values }, i) => values.every((x, k) => x === b.moves[i].values[k]));

export const isPlanted =
  ({ contacts }: Scene, side: string) =>
  (f: number): boolean =>
    contacts.plants.some((plant) => plant.side === side && plant.first <= f && f <= plant.last);
