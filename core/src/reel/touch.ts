/** Figures on one stage that touch each other. */
import { ClipReader, type Clip } from '../clip';
import { leadEnds, limbOf, Poser, type Led } from '../mend';
import type { ReelContent, ReelEnd, ReelLane, ReelTouch } from '../recipe';
import type { Rig } from '../rig';
import { pointInWorld, withAncestors } from '../skeleton';

/** A figure of the stage. */
export interface OnStage {
  readonly rig: Rig;
  readonly clip: Clip;
}

/**
 * Brings ends of limbs together while figures touch: each goes its share of the way between them, comes and goes over the ease, and is free before
 * and after.
 * @param figures by lane; undefined for a lane that does not play
 * @returns the motions, those that touch nothing the same
 */
export function withTouches(figures: readonly (OnStage | undefined)[], touches: readonly ReelTouch[], fps: number): (Clip | undefined)[] {
  const now = figures.map((figure) => figure?.clip);
  for (const touch of touches) {
    const [a, b] = [touch.a, touch.b].map(({ lane }) => {
      const clip = now[lane];
      return clip && figures[lane] ? { rig: figures[lane].rig, clip } : undefined;
    });
    if (!a || !b || touch.a.lane === touch.b.lane) continue;
    const [first, last] = [Math.round(touch.from * fps), Math.round(touch.to * fps)];
    const ways = waysBetween({ ...a, end: touch.a.end }, { ...b, end: touch.b.end }, first, last);
    now[touch.a.lane] = led(a, touch.a.end, ways, touch.share, first, last, touch.ease * fps);
    now[touch.b.lane] = led(b, touch.b.end, ways, touch.share - 1, first, last, touch.ease * fps);
  }
  return now;
}

/**
 * The reel as far as the motion of one lane depends on it: the lane, and those that play and whose figures it touches, directly or by another.
 * @returns with the lane's place in it
 */
export function aboutLane(reel: ReelContent, lane: number): { readonly reel: ReelContent; readonly lane: number } {
  const { fps, lanes } = reel;
  const isPlayed = ({ lane: i }: ReelTouch['a']): boolean => i < lanes.length && plays(lanes[i]);
  const touches = reel.touches.filter(({ a, b }) => isPlayed(a) && isPlayed(b));
  const needed = new Set([lane]);
  // Each round reaches the neighbours of what is needed; no chain is longer than there are lanes.
  for (let size = 0; size < needed.size;) {
    size = needed.size;
    for (const { a, b } of touches) if (needed.has(a.lane) || needed.has(b.lane)) needed.add(a.lane).add(b.lane);
  }
  const kept = [...needed].sort((a, b) => a - b);
  const moved = ({ lane: from, end }: ReelTouch['a']): ReelTouch['a'] => ({ lane: kept.indexOf(from), end });
  return {
    lane: kept.indexOf(lane),
    reel: {
      fps,
      lanes: kept.map((i) => lanes[i]),
      touches: touches.filter(({ a }) => needed.has(a.lane)).map((touch) => ({ ...touch, a: moved(touch.a), b: moved(touch.b) })),
    },
  };
}

/** Whether anything comes of a lane. */
export const plays = ({ on, clips }: ReelLane): boolean => on && clips.length > 0;

const jointOf = ({ roles }: Rig, end: ReelEnd): number => roles.get(end) ?? -1;

/** The way from the first figure's end to the second's in each frame of a touch: palm to palm, where palms are known. */
function waysBetween(a: OnStage & { end: ReelEnd }, b: OnStage & { end: ReelEnd }, first: number, last: number): Float64Array {
  const out = new Float64Array(Math.max(0, last - first + 1) * 3);
  const points = [a, b].map(({ rig, clip, end }) => {
    const joint = jointOf(rig, end);
    const palm = end.endsWith('hand') ? rig.hands.find(({ side }) => end.startsWith(side))?.palm : undefined;
    return {
      joint,
      palm: palm ?? new Float64Array(3),
      clip,
      reader: new ClipReader(rig.skeleton, clip, withAncestors(rig.skeleton.parents, joint < 0 ? [] : [joint])),
    };
  });
  const [p, q] = [new Float64Array(3), new Float64Array(3)];
  for (let f = first; f <= last; f++) {
    [p, q].forEach((point, i) => {
      const { joint, palm, clip, reader } = points[i];
      if (joint >= 0) pointInWorld(point, 0, reader.at(Math.max(0, Math.min(clip.frames - 1, f))), joint, palm, 0);
    });
    for (let c = 0; c < 3; c++) out[(f - first) * 3 + c] = q[c] - p[c];
  }
  return out;
}

function led({ rig, clip }: OnStage, end: ReelEnd, ways: Float64Array, share: number, first: number, last: number, ease: number): Clip {
  const side = end.startsWith('left') ? 'left' : 'right';
  const isLeg = end.endsWith('foot');
  const limb = limbOf(rig, side, isLeg ? 'leg' : 'arm');
  if (!limb || share === 0 || first >= clip.frames) return clip;
  const { frames } = clip;
  const values = new Float64Array(frames * 6);
  const given = new Uint8Array(frames).fill(1);
  const changed = new Uint8Array(frames);
  const [from, to] = [Math.max(0, Math.floor(first - ease)), Math.min(frames - 1, Math.ceil(last + ease))];
  changed.fill(1, from, to + 1);
  given.fill(0, from, to + 1);
  for (let f = Math.max(0, first); f <= Math.min(last, frames - 1); f++) {
    given[f] = 1;
    for (let c = 0; c < 3; c++) values[f * 6 + c] = share * ways[(f - first) * 3 + c];
  }
  const leading: Led = { limb, isLeg, values, given };
  return leadEnds(new Poser(rig, clip, [limb.end]), [leading], changed);
}
