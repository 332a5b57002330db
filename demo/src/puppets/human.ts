import { MeshBuilder, type Ring, type Weights } from '../mesh';
import { buildRig, mirrored, type Axes, type Rig, type RigJoint } from '../rig';
import { add, mix, sub, scale, type V3 } from '../vectors';

/** Measures of a two-legged puppet at rest, in metres, Y up, facing +Z; the left side, mirrored to the right. */
export interface HumanPlan {
  /** Name of the joint that plays a part: `hips`, `spine1` …, `L.upperArm`, `R.thumb2`, `tip` parts never. */
  readonly name: (part: string) => string;
  readonly axes: Axes;
  readonly hips: V3;
  readonly spine: readonly V3[];
  readonly neck: readonly V3[];
  readonly head: V3;
  readonly crown: V3;
  readonly clavicle: V3;
  readonly arm: readonly [shoulder: V3, elbow: V3, wrist: V3];
  /** Finger bones beyond the wrist: each a list of joints and at its end the tip. */
  readonly fingers: Readonly<Record<string, readonly V3[]>>;
  /** Hip joint, knee, (hock,) ankle. */
  readonly leg: readonly V3[];
  readonly ball: V3;
  readonly toeTip: V3;
  /** Twist joints along upper arm, fore arm and thigh, as shares of the bone. */
  readonly twists?: Readonly<Partial<Record<'upperArm' | 'lowerArm' | 'upperLeg', readonly number[]>>>;
  /** Further joints by part, after the body's own. */
  readonly more?: readonly { readonly part: string; readonly parent: string; readonly at: V3 }[];
  readonly tips?: Readonly<Record<string, V3>>;
}

/** A plan made into a rig, with the places of its parts at hand. */
export class Human {
  readonly rig: Rig;
  readonly mesh = new MeshBuilder();

  constructor(readonly plan: HumanPlan) {
    const { name } = plan;
    const legParts = plan.leg.length === 4 ? ['upperLeg', 'lowerLeg', 'hock', 'foot'] : ['upperLeg', 'lowerLeg', 'foot'];
    const joints: RigJoint[] = [];
    const put = (part: string, parent: string | undefined, at: V3): void => {
      joints.push({ name: name(part), parent: parent === undefined ? undefined : name(parent), at });
    };
    put('hips', undefined, plan.hips);
    let top = 'hips';
    plan.spine.forEach((at, i) => {
      put(`spine${i + 1}`, top, at);
      top = `spine${i + 1}`;
    });
    const chest = top;
    plan.neck.forEach((at, i) => {
      put(`neck${i + 1}`, top, at);
      top = `neck${i + 1}`;
    });
    put('head', top, plan.head);
    const left: RigJoint[] = [];
    const tips = new Map<string, V3>([[name('head'), plan.crown]]);
    const right = new Map<string, string>();
    const side = (part: string, parent: string, at: V3): void => {
      left.push({ name: name(part), parent: name(parent), at });
      right.set(name(part), name(part.replace('L.', 'R.')));
    };
    side('L.clavicle', chest, plan.clavicle);
    ['upperArm', 'lowerArm', 'hand'].forEach((part, i) =>
      side(`L.${part}`, i === 0 ? 'L.clavicle' : `L.${['upperArm', 'lowerArm'][i - 1]}`, plan.arm[i]),
    );
    for (const [finger, places] of Object.entries(plan.fingers)) {
      places.slice(0, -1).forEach((at, i) => side(`L.${finger}${i + 1}`, i === 0 ? 'L.hand' : `L.${finger}${i}`, at));
      const last = `L.${finger}${places.length - 1}`;
      const end = places[places.length - 1];
      tips.set(name(last), end);
      tips.set(name(last.replace('L.', 'R.')), [-end[0], end[1], end[2]]);
    }
    legParts.forEach((part, i) => side(`L.${part}`, i === 0 ? 'hips' : `L.${legParts[i - 1]}`, plan.leg[i]));
    side('L.toes', 'L.foot', plan.ball);
    tips.set(name('L.toes'), plan.toeTip);
    tips.set(name('R.toes'), [-plan.toeTip[0], plan.toeTip[1], plan.toeTip[2]]);
    const segments = {
      upperArm: [plan.arm[0], plan.arm[1]],
      lowerArm: [plan.arm[1], plan.arm[2]],
      upperLeg: [plan.leg[0], plan.leg[1]],
    } as const;
    for (const [part, shares] of Object.entries(plan.twists ?? {})) {
      const [from, to] = segments[part as keyof typeof segments];
      shares.forEach((share, i) => side(`L.${part}Twist${i + 1}`, `L.${part}`, mix(from, to, share)));
    }
    joints.push(...left, ...mirrored(left, (n) => right.get(n) ?? n));
    for (const { part, parent, at } of plan.more ?? []) put(part, parent, at);
    for (const [part, at] of Object.entries(plan.tips ?? {})) tips.set(name(part), at);
    this.rig = buildRig(joints, plan.axes, tips);
  }

  /** Where a part stands. */
  at(part: string): V3 {
    const index = this.rig.index.get(this.plan.name(part));
    if (index === undefined) throw new Error(`no joint ${part}`);
    return this.rig.joints[index].at;
  }

  /** Weights by part; a part that is named twice has the sum. */
  w(...list: readonly (readonly [part: string, weight: number])[]): Weights {
    const sums = new Map<string, number>();
    for (const [part, weight] of list) sums.set(this.plan.name(part), (sums.get(this.plan.name(part)) ?? 0) + weight);
    return [...sums];
  }

  /** The two trunk joints that a height lies between, weighted. */
  trunk(y: number): Weights {
    const names = ['hips', ...this.plan.spine.map((_, i) => `spine${i + 1}`), 'neck1'];
    let k = 0;
    while (k + 2 < names.length && this.at(names[k + 1])[1] <= y) k++;
    const next = Math.min(k + 1, names.length - 1);
    const [a, b] = [this.at(names[k])[1], this.at(names[next])[1]];
    const t = b > a ? Math.min(1, Math.max(0, (y - a) / (b - a))) : 0;
    return this.w([names[k], 1 - 0.6 * t], [names[next], 0.001 + 0.6 * t]);
  }

  /** A ring of the trunk at a height, standing over the spine there. */
  ring(y: number, across: number, deep: number, weights: Weights = this.trunk(y), z = this.spineZ(y)): Ring {
    return { at: [0, y, z], across, deep, weights };
  }

  private spineZ(y: number): number {
    const line = [this.plan.hips, ...this.plan.spine, ...this.plan.neck, this.plan.head];
    for (let i = 1; i < line.length; i++) {
      if (y > line[i][1]) continue;
      const t = (y - line[i - 1][1]) / Math.max(1e-6, line[i][1] - line[i - 1][1]);
      return line[i - 1][2] + (line[i][2] - line[i - 1][2]) * Math.max(0, t);
    }
    return line[line.length - 1][2];
  }

  /** Arms and legs of one side: thicknesses at shoulder, elbow, wrist and hip, knee, ankle. */
  limbs(
    side: 'L' | 'R',
    colours: { sleeve: string; cuff?: string; leg: string; shank: string },
    arm: readonly [number, number, number],
    leg: readonly [number, number, number],
  ): void {
    const { mesh: m } = this;
    const n = (part: string): string => this.plan.name(`${side}.${part}`);
    const at = (part: string): V3 => this.at(`${side}.${part}`);
    m.ball(
      colours.sleeve,
      at('upperArm'),
      [arm[0] * 1.12, arm[0] * 1.08, arm[0] * 1.08],
      [
        [n('upperArm'), 0.6],
        [n('clavicle'), 0.4],
      ],
    );
    this.twisted(side, 'upperArm', 'lowerArm', colours.sleeve, [arm[0], (arm[0] + arm[1]) / 2, arm[1]], n('clavicle'));
    this.twisted(side, 'lowerArm', 'hand', colours.sleeve, [arm[1], (arm[1] + arm[2]) / 2, arm[2]], n('upperArm'));
    if (colours.cuff) {
      const [a, b] = [at('lowerArm'), at('hand')];
      m.limb(colours.cuff, mix(a, b, 0.82), mix(a, b, 0.96), [arm[2] * 1.12, arm[2] * 1.18, arm[2] * 1.12], n('lowerArm'));
    }
    this.twisted(side, 'upperLeg', 'lowerLeg', colours.leg, [leg[0], (leg[0] + leg[1]) / 2, leg[1]], this.plan.name('hips'));
    const hock = this.plan.leg.length === 4;
    m.limb(
      colours.shank,
      at('lowerLeg'),
      at(hock ? 'hock' : 'foot'),
      [leg[1], leg[1] * 0.96, leg[2]],
      n('lowerLeg'),
      n('upperLeg'),
      n(hock ? 'hock' : 'foot'),
    );
    if (hock)
      m.limb(colours.shank, at('hock'), at('foot'), [leg[2] * 1.05, leg[2] * 0.9, leg[2] * 0.95], n('hock'), n('lowerLeg'), n('foot'));
  }

  /** A limb whose surface follows its twist joints where it has some. */
  private twisted(
    side: 'L' | 'R',
    part: 'upperArm' | 'lowerArm' | 'upperLeg',
    next: string,
    colour: string,
    r: readonly [number, number, number],
    before: string,
  ): void {
    const n = (p: string): string => this.plan.name(`${side}.${p}`);
    const [a, b] = [this.at(`${side}.${part}`), this.at(`${side}.${next}`)];
    const shares = this.plan.twists?.[part] ?? [];
    if (shares.length === 0) {
      this.mesh.limb(colour, a, b, r, n(part), before, n(next));
      return;
    }
    const stops = [0, ...shares, 1];
    const rings: Ring[] = [];
    for (let i = 0; i <= 12; i++) {
      const t = i / 12;
      let k = 0;
      while (k + 2 < stops.length && stops[k + 1] <= t) k++;
      const own = k === 0 ? n(part) : n(`${part}Twist${k}`);
      const following = k + 1 < stops.length - 1 ? n(`${part}Twist${k + 1}`) : undefined;
      const f = (t - stops[k]) / (stops[k + 1] - stops[k]);
      const weights: Weights =
        t < 0.05
          ? [
              [n(part), 0.6],
              [before, 0.4],
            ]
          : following
            ? [
                [own, 1 - f + 0.001],
                [following, f + 0.001],
              ]
            : [[own, 1]];
      const radius = t < 0.5 ? r[0] + (r[1] - r[0]) * t * 2 : r[1] + (r[2] - r[1]) * (t * 2 - 1);
      rings.push({ at: mix(a, b, t), across: radius, deep: radius, weights });
    }
    this.mesh.tube(colour, rings);
  }

  /** A hand: a palm, and a limb for every finger bone. */
  hand(side: 'L' | 'R', colour: string, palm: number, finger: number): void {
    const { mesh: m, plan } = this;
    const n = (part: string): string => plan.name(`${side}.${part}`);
    const wrist = this.at(`${side}.hand`);
    const flip = ([x, y, z]: V3): V3 => (side === 'L' ? [x, y, z] : [-x, y, z]);
    const names = Object.keys(plan.fingers);
    const middle = flip(
      plan.fingers[names[Math.min(names.length - 1, 2)]]?.[0] ?? add(plan.arm[2], scale(sub(plan.arm[2], plan.arm[1]), 0.35)),
    );
    m.ball(colour, mix(wrist, middle, 0.55), [palm, palm * 1.05, palm * 1.15], [[n('hand'), 1]], 8);
    for (const [name, places] of Object.entries(plan.fingers)) {
      const chain = places.map(flip);
      const r = name === 'thumb' ? finger * 1.15 : finger;
      m.limb(colour, mix(wrist, chain[0], 0.5), chain[0], [r, r, r], n('hand'), undefined, n(`${name}1`));
      for (let i = 0; i + 1 < chain.length; i++) {
        const k = 1 - 0.09 * i;
        m.limb(
          colour,
          chain[i],
          chain[i + 1],
          [r * k, r * k, r * k * 0.85],
          n(`${name}${i + 1}`),
          i === 0 ? n('hand') : n(`${name}${i}`),
          i + 2 < chain.length ? n(`${name}${i + 2}`) : undefined,
        );
      }
    }
  }

  /** A shoe whose sole lies flat on the floor. @param size length of the foot over that of a plain boot */
  shoe(side: 'L' | 'R', colour: string, size: number, high = 1): void {
    const foot = this.w([`${side}.foot`, 1]);
    const mid = this.w([`${side}.foot`, 0.5], [`${side}.toes`, 0.5]);
    const toes = this.w([`${side}.toes`, 1]);
    const ankle = this.at(`${side}.foot`);
    const turn = side === 'L' ? 1 : -1;
    const p = (z: number, height: number, half: number, weights: Weights): Ring => ({
      at: add(ankle, [turn * 0.06 * z * size, (height * size * high) / 2 - ankle[1], z * size]),
      across: half * size,
      deep: (height * size * high) / 2,
      weights,
    });
    this.mesh.tube(
      colour,
      [
        p(-0.075, 0.03, 0.018, foot),
        p(-0.07, 0.085, 0.042, foot),
        p(-0.02, 0.115, 0.05, foot),
        p(0.05, 0.1, 0.052, foot),
        p(0.11, 0.075, 0.055, foot),
        p(0.145, 0.065, 0.055, mid),
        p(0.19, 0.055, 0.05, toes),
        p(0.22, 0.045, 0.038, toes),
        p(0.235, 0.02, 0.016, toes),
      ],
      [0, 1, 0],
      16,
    );
  }

  /** Head with nose and eyes; `size` is its half height. */
  face(skin: string, eyes: string, centre: V3, size: number): void {
    const { mesh: m } = this;
    const head = this.w(['head', 1]);
    m.ball(skin, centre, [size * 0.82, size, size * 0.9], head, 14);
    m.ball(skin, add(centre, [0, -size * 0.05, size * 0.93]), [size * 0.17, size * 0.24, size * 0.24], head, 8);
    for (const x of [-1, 1])
      m.ball(eyes, add(centre, [x * size * 0.34, size * 0.22, size * 0.76]), [size * 0.1, size * 0.12, size * 0.08], head, 6);
    const base = this.at('neck1');
    const top = this.at('head');
    const neck = this.plan.neck.map((_, i) => `neck${i + 1}`);
    m.limb(
      skin,
      base,
      mix(top, centre, 0.4),
      [size * 0.5, size * 0.46, size * 0.48],
      this.plan.name(neck[neck.length - 1]),
      this.plan.name(neck[0]),
      this.plan.name('head'),
    );
  }
}
