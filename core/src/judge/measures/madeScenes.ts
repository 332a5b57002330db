import { cos, sin } from '../../math/trig';
import type { Direction, Part } from '../look/directions';
import type { Standing } from '../look/holding';
import type { BodyPoint } from '../look/points';
import type { Scene } from '../scene';

/** What one measure looks at, made by hand: places and directions that no solver has seen. */
export interface Made {
  readonly frames?: number;
  readonly frameTime?: number;
  readonly directions?: readonly Direction[];
  readonly points?: readonly (readonly [name: string, kind: BodyPoint['kind']])[];
  readonly mine?: Float64Array;
  readonly theirs?: Float64Array;
  readonly hips?: { readonly mine: Float64Array; readonly theirs: Float64Array };
  readonly rests?: readonly Partial<Standing>[];
  readonly left?: Uint8Array;
  readonly led?: ReadonlyMap<string, Uint8Array>;
  readonly heading?: Float64Array;
  readonly seen?: Partial<Scene['seen']>;
  readonly inPlace?: boolean;
  readonly meeting?: number;
  /** How high rests are over the performer's floor; as high as they are by default. */
  readonly overFloor?: Scene['overFloor'];
}

export const FRAME = 1 / 60;
export const LEG = 0.9;

export function sceneOf(made: Made): Scene {
  const { frames = 240, frameTime = FRAME, left = new Uint8Array(made.frames ?? 240), rests = [], points = [] } = made;
  const empty = new Float64Array(frames * 3);
  return {
    given: {
      performer: { legLength: LEG },
      character: { legLength: LEG },
      take: { frames, frameTime },
      result: { frames, frameTime },
      scale: { stride: 1, lift: 1 },
      inPlace: made.inPlace ?? false,
      heading: made.heading,
    },
    seen: {
      frames,
      points: points.map(([name, kind]) => ({ name, kind })),
      mine: made.mine ?? empty,
      theirs: made.theirs ?? empty,
      directions: made.directions ?? [],
      hips: made.hips ?? { mine: empty, theirs: empty },
      crossings: { found: [], frames: [], touching: { left: [], right: [] } },
      copied: [],
      ...made.seen,
    },
    left,
    leftFrames: left.reduce((sum, v) => sum + v, 0),
    led: made.led ?? new Map<string, Uint8Array>(),
    rests,
    floor: 0,
    overFloor: made.overFloor ?? (() => 1),
    meeting: { frames: made.meeting ?? 0 },
    grip: undefined,
    at: (frame: number) => `frame ${frame}`,
  } as unknown as Scene;
}

/** A direction that swings in a plane; the character's by another angle. */
export function swinging(name: string, part: Part, frames: number, theirs: (f: number) => number, mine: (f: number) => number): Direction {
  const along = (angle: (f: number) => number): Float32Array =>
    Float32Array.from({ length: frames * 3 }, (_, i) => [sin(angle((i / 3) | 0)), cos(angle((i / 3) | 0)), 0][i % 3]);
  return { name, part, mine: along(mine), theirs: along(theirs) };
}

/** Two sums of swings of a few hertz, smooth and without a period. */
export const swings = (f: number): number => 0.6 * sin(0.11 * f) + 0.25 * sin(0.047 * f + 1);

export const placesAlong = (frames: number, place: (f: number) => readonly [number, number, number]): Float64Array =>
  Float64Array.from({ length: frames * 3 }, (_, i) => place((i / 3) | 0)[i % 3]);
