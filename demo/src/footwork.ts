import type { Step } from './gait';

/** Where a foot stands and where it points, degrees from +Z towards +X. */
export interface Place {
  readonly x: number;
  readonly z: number;
  readonly heading: number;
  readonly y?: number;
}

type Side = 'l' | 'r';
type Open = { -readonly [K in keyof Step]: Step[K] };

/** A way over the floor: the place and the heading after so many metres. */
export type Way = (metres: number) => Place;

export interface Walk {
  /** When the first foot leaves. */
  readonly from: number;
  /** Seconds from landing to landing, and metres from print to print. */
  readonly pace: number;
  readonly length: number;
  readonly count: number;
  readonly way: Way;
  readonly width?: number;
  readonly toeOut?: number;
  /** Share of a foot's cycle that it stands: over a half walks, under it runs. */
  readonly stands?: number;
  readonly first?: Side;
  /** Rolls from heel to ball; flat otherwise. */
  readonly rolls?: boolean;
  readonly lift?: number;
  /** Changes single steps: factors on pace and length. */
  readonly uneven?: (i: number, side: Side) => { readonly time?: number; readonly length?: number };
}

const sideOf = (side: Side): number => (side === 'l' ? 1 : -1);

/** Footprints as they are made, in order of time. */
export class Footwork {
  private readonly prints: Open[] = [];
  private readonly last: Record<Side, Open>;
  private way: Way | undefined;
  private gone = 0;

  /** Both feet stand from the start. */
  constructor(
    private readonly end: number,
    { x = 0, z = 0, heading = 0, width = 0.15, toeOut = 7, ahead = 0 } = {},
  ) {
    const at = (side: Side): Open => {
      const s = sideOf(side);
      const a = (heading * Math.PI) / 180;
      const across = (s * width) / 2;
      const along = s * ahead;
      return {
        side,
        x: x + across * Math.cos(a) + along * Math.sin(a),
        z: z - across * Math.sin(a) + along * Math.cos(a),
        heading: heading + s * toeOut,
        strike: 0,
        off: end,
        rollIn: false,
        rollOut: false,
      };
    };
    this.last = { l: at('l'), r: at('r') };
    this.prints.push(this.last.l, this.last.r);
  }

  /** One foot leaves at one moment and lands elsewhere at another. */
  move(
    side: Side,
    place: Place,
    leaves: number,
    lands: number,
    { rolls = true, lift, tip }: { rolls?: boolean; lift?: number; tip?: number } = {},
  ): this {
    const before = this.last[side];
    before.off = leaves;
    before.rollOut = rolls;
    this.last[side] = {
      side,
      ...place,
      strike: lands,
      off: this.end,
      rollIn: rolls,
      rollOut: false,
      ...(lift === undefined ? {} : { lift }),
      ...(tip === undefined ? {} : { tip }),
    };
    this.prints.push(this.last[side]);
    return this;
  }

  /** Both feet leave and land together, by so much farther. */
  jump(leaves: number, lands: number, x: number, z: number, lift = 0.12): this {
    for (const side of ['l', 'r'] as const) {
      const { x: ox, z: oz, heading, y } = this.last[side];
      this.move(side, { x: ox + x, z: oz + z, heading, y }, leaves, lands, { rolls: true, lift });
    }
    return this;
  }

  /** Walks along a way from where the last walk along it ended, and brings the feet together. */
  walk(walk: Walk): number {
    const { width = 0.15, toeOut = 7, stands = 0.6, first = 'r', rolls = true, lift, uneven } = walk;
    if (this.way !== walk.way) this.gone = 0;
    this.way = walk.way;
    let side: Side = first;
    let lands = walk.from;
    for (let i = 0; i < walk.count; i++) {
      const change = uneven?.(i, side) ?? {};
      const pace = walk.pace * (change.time ?? 1);
      lands += pace;
      const isEnd = i === walk.count - 1;
      if (!isEnd) this.gone += walk.length * (change.length ?? 1) * (i === 0 ? 0.5 : 1);
      const { x, z, heading, y } = walk.way(this.gone);
      const s = sideOf(side);
      const a = (heading * Math.PI) / 180;
      const leaves = lands - 2 * pace * (1 - stands);
      const place = { x: x + (s * width * Math.cos(a)) / 2, z: z - (s * width * Math.sin(a)) / 2, heading: heading + s * toeOut, y };
      this.move(side, place, Math.max(leaves, walk.from * 0.999), lands, { rolls, lift });
      side = side === 'l' ? 'r' : 'l';
    }
    return lands;
  }

  steps(): Step[] {
    return this.prints;
  }
}

/** Straight ahead along a heading. */
export const straight = (heading = 0, x = 0, z = 0): Way => {
  const a = (heading * Math.PI) / 180;
  return (s) => ({ x: x + s * Math.sin(a), z: z + s * Math.cos(a), heading });
};

/** Along a circle; a positive radius turns left. */
export const arc = (radius: number, heading = 0): Way => {
  const a = (heading * Math.PI) / 180;
  return (s) => {
    const turn = s / radius;
    // The middle lies to the left by the radius.
    const mx = Math.cos(a) * radius;
    const mz = -Math.sin(a) * radius;
    return { x: mx - Math.cos(a + turn) * radius, z: mz + Math.sin(a + turn) * radius, heading: heading + (turn * 180) / Math.PI };
  };
};

/** Back and forth across the line ahead. */
export const weaving = (wave: number, size: number): Way => {
  return (s) => {
    const k = (2 * Math.PI) / wave;
    return { x: size * Math.sin(k * s), z: s, heading: (Math.atan(size * k * Math.cos(k * s)) * 180) / Math.PI };
  };
};
