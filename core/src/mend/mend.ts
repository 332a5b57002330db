import type { Clip } from '../clip';
import type { Contacts } from '../contact';
import { mirrorRole } from '../label';
import type { HeldEnd, Layer, LayerDoes, LayerEnd } from '../recipe';
import type { Rig } from '../rig';
import { weightsOf } from './curve';
import { blended, bridged, calmed, scaled, withoutSpikes } from './filters';
import { holdsOf, settle, type Hold } from './holds';
import { mirrored } from './mirror';
import { keepOver } from './over';
import { layReach } from './reach';
import { layTurns } from './turns';

/** A motion that layers are laid over. */
export interface Mended {
  readonly rig: Rig;
  readonly clip: Clip;
  readonly contacts: Pick<Contacts, 'plants' | 'hands'>;
  /** The take's own second of a frame. */
  readonly timeOf: (frame: number) => number;
  /** Height of a level floor that feet stay over, metres; undefined where there is none. */
  readonly floor?: number;
}

/** The layers that do anything, in their order. */
export function layersOn(layers: readonly Layer[]): Layer[] {
  const isAlone = layers.some(({ on, alone }) => on && alone);
  return layers.filter(({ on, alone, strength }) => on && strength > 0 && (alone || !isAlone));
}

/**
 * Lays layers over a motion, one upon the other. What rests is settled again after each, unless the layer says that it stands as posed; a limb end
 * that a layer moves itself is not; and no foot is taken into the floor. Layers that do nothing leave the motion as it is, bit for bit.
 */
export function mend({ rig, clip, contacts, timeOf, floor }: Mended, layers: readonly Layer[]): Clip {
  let holds = holdsOf(contacts);
  let now = clip;
  for (const layer of layersOn(layers)) {
    const weights = weightsOf(layer, now.frames, timeOf);
    const changed = Uint8Array.from(weights, (weight) => (weight > 0 ? 1 : 0));
    if (!changed.includes(1)) continue;
    const before = now;
    const after = laid(rig, before, layer, weights, timeOf);
    if (after === before) continue;
    if (layer.does.kind === 'mirror') {
      holds = [...within(holds.map(mirrorHold), weights, 1), ...within(holds, weights, 0)];
      now = after;
      continue;
    }
    const own = movedBy(layer.does);
    const asked = (layer.held ?? []).map((end): Hold => ({ end, first: 0, last: now.frames - 1, isAsked: true }));
    const resting = layer.asPosed ? [] : holds.filter(({ end }) => !layer.held?.includes(end));
    const kept = [...resting, ...asked].filter(({ end }) => !own.has(end));
    now = kept.length > 0 ? settle(rig, before, after, kept, changed) : after;
    if (floor !== undefined && !layer.asPosed) now = keepOver(rig, before, now, floor, changed);
  }
  return now;
}

function laid(rig: Rig, clip: Clip, { does, mask }: Layer, weights: Float64Array, timeOf: (frame: number) => number): Clip {
  switch (does.kind) {
    case 'turns':
      return layTurns(rig, clip, does, weights, timeOf);
    case 'reach':
      return layReach(rig, clip, does, weights, timeOf);
    case 'calm':
      return blended(rig, clip, calmed(clip, does.seconds), weights, does);
    case 'spikes':
      return blended(rig, clip, withoutSpikes(rig, clip), weights, does);
    case 'amount':
      return does.factor === 1 ? clip : blended(rig, clip, scaled(clip, does.factor), weights, does);
    case 'mirror':
      return blended(rig, clip, mirrored(rig, clip), weights);
    case 'bridge': {
      if (!mask) return clip;
      const frames = Array.from({ length: clip.frames }, (_, f) => f).filter((f) => inside(timeOf(f), mask));
      const [first, last] = [frames.at(0) ?? 0, frames.at(-1) ?? 0];
      return blended(rig, clip, bridged(clip, first, last), weights, does);
    }
  }
}

const inside = (t: number, { from, to }: NonNullable<Layer['mask']>): boolean => t >= from - 1e-6 && t <= to + 1e-6;

/** Limb ends that a layer moves itself: they are not held. */
function movedBy(does: LayerDoes): ReadonlySet<LayerEnd> {
  return new Set(does.kind === 'reach' ? does.tracks.filter(({ keys }) => keys.length > 0).map(({ end }) => end) : []);
}

const mirrorHold = (hold: Hold): Hold => ({
  ...hold,
  end: mirrorRole(hold.end) as HeldEnd,
  ...(hold.on !== undefined && { on: mirrorRole(hold.on) }),
});

/** Holds where a layer is laid on whole (1), or not at all (0). */
function within(holds: readonly Hold[], weights: Float64Array, weight: number): Hold[] {
  return holds.flatMap(({ first, last, ...rest }) => {
    const out: Hold[] = [];
    for (let f = first; f <= last; f++) {
      if (weights[f] !== weight) continue;
      const from = f;
      while (f < last && weights[f + 1] === weight) f++;
      out.push({ ...rest, first: from, last: f });
    }
    return out;
  });
}
