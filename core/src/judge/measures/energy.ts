import { RunningMean } from '../../math/runningMean';
import { DEG } from '../../math/trig';
import type { Found } from '../figure';
import type { Part, Direction } from '../look/directions';
import type { Scene } from '../scene';
import { freeOf } from './free';

/** Bands of motion as pairs of windows, seconds: what a mean over the first leaves and one over the second does not. */
const BANDS = [
  { name: 'quick', short: 0.06, long: 0.25 },
  { name: 'slow', short: 0.25, long: 1 },
] as const;
/** Motion of less than this is not looked at, radians (root mean square). */
const UNSEEN = 3 * DEG;

/** Less time than this says nothing of energy, seconds. */
const LEAST = 1;

interface Band {
  readonly name: string;
  readonly ratio: number;
}

/** The energy of each of a part's directions in each band, character over performer; parts that hardly move have none. */
function bandsOf(scene: Scene, directions: readonly Direction[], frameTime: number): Band[] {
  return directions.flatMap((direction) => {
    const out = freeOf(scene, direction);
    const frames = out.reduce((sum, v) => sum + 1 - v, 0);
    const unseen = UNSEEN * UNSEEN * Math.max(frames, LEAST / frameTime);
    return BANDS.flatMap(({ name, short, long }): Band[] => {
      const [mine, theirs] = [
        energyIn(direction.mine, short, long, out, frameTime),
        energyIn(direction.theirs, short, long, out, frameTime),
      ];
      return Math.max(mine, theirs) < unseen ? [] : [{ name: `${direction.name}, ${name}`, ratio: mine / Math.max(theirs, unseen / 4) }];
    });
  });
}

/** Sum of squares of what a mean over a short window leaves of a direction and one over a long window does not. */
function energyIn(vectors: Float32Array, short: number, long: number, left: Uint8Array, frameTime: number): number {
  const [near, far] = [short, long].map((seconds) => new RunningMean(vectors, Math.round(seconds / frameTime / 2)));
  let sum = 0;
  for (let f = 0; f < left.length; f++) {
    near.step(f);
    far.step(f);
    if (left[f] === 1) continue;
    const [x, y, z] = [near.x - far.x, near.y - far.y, near.z - far.z];
    sum += x * x + y * y + z * z;
  }
  return sum;
}

function energy(scene: Scene, id: 'energy.upper' | 'energy.legs', parts: readonly Part[]): Found {
  const { seen, given } = scene;
  const bands = bandsOf(
    scene,
    seen.directions.filter(({ part }) => parts.includes(part)),
    given.take.frameTime,
  );
  const far = ({ ratio }: Band): number => Math.max(ratio, 1 / Math.max(ratio, 1e-6)) - 1;
  const worst = bands.reduce<Band | undefined>((a, b) => (a && far(a) >= far(b) ? a : b), undefined);
  return {
    id,
    value: worst ? 100 * Math.abs(worst.ratio - 1) : NaN,
    looked: `${bands.length} bands`,
    words: worst ? `${worst.name}: ${worst.ratio.toFixed(2)} of the performer’s` : 'hardly anything moves',
  };
}

/** How far the energy of arms, hands, chest and head is from the performer's, worst direction and band. */
export const energyOfUpper = (scene: Scene): Found => energy(scene, 'energy.upper', ['arms', 'trunk', 'head']);
/** The same for legs. */
export const energyOfLegs = (scene: Scene): Found => energy(scene, 'energy.legs', ['legs']);
