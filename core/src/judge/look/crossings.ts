import type { Pose } from '../../skeleton';
import type { Case } from '../case';
import { between, capsulesOf, endsOf, type Capsule } from './capsules';
import { sharedPoints } from './points';

/** Two parts that may run into each other, on both bodies. */
interface Pair {
  readonly name: string;
  /** Where their ends stand among those of all. */
  readonly from: number;
  readonly to: number;
  /** Both half thicknesses, metres. */
  readonly mine: number;
  readonly theirs: number;
  /** Sides whose arm is one of them. */
  readonly arms: readonly string[];
}

/** How far two parts of the character are in each other, look by look. */
export interface Crossing {
  readonly name: string;
  /** Share of both half thicknesses, beyond the performer's own. */
  readonly depths: number[];
}

/** Parts that are not joined and come near each other in motion. */
const PAIRS: readonly (readonly [string, string])[] = [
  ['left thigh', 'right thigh'],
  ['left shin', 'right shin'],
  ['left thigh', 'right shin'],
  ['left shin', 'right thigh'],
  ['left forearm', 'right forearm'],
  ...['left', 'right'].flatMap((side): [string, string][] => [
    [`${side} forearm`, 'trunk'],
    [`${side} forearm`, 'head'],
    [`${side} hand`, 'trunk'],
    [`${side} hand`, 'head'],
    ...['left', 'right'].flatMap((other): [string, string][] => [
      [`${side} forearm`, `${other} thigh`],
      [`${side} hand`, `${other} thigh`],
      [`${side} hand`, `${other} shin`],
    ]),
  ]),
];

/** A hand or forearm of the performer this near to its own body is on it, share of a leg. */
const TOUCHES = 0.07;

/** Watches for limbs that go through each other or through the trunk where the performer's do not. */
export class CrossingWatch {
  readonly found: readonly Crossing[];
  /** Frames of the looks. */
  readonly frames: number[] = [];
  /** Sides of the performer whose hand or forearm is on its body, frames of the looks. */
  readonly touching: Readonly<Record<string, number[]>> = { left: [], right: [] };
  private readonly near: number;
  private readonly pairs: readonly Pair[];
  /** Parts that both bodies have: the character's and the performer's. */
  private readonly rods: readonly (readonly [Capsule, Capsule])[];
  private readonly mine: Float64Array;
  private readonly theirs: Float64Array;

  constructor({ performer, character, skin }: Case) {
    const points = sharedPoints(performer, character);
    const mine = capsulesOf(character, skin, points.character);
    const theirs = capsulesOf(performer, undefined, points.performer);
    this.rods = [...mine.keys()].flatMap((name) => (theirs.has(name) ? [[mine.get(name)!, theirs.get(name)!] as const] : []));
    const index = new Map(this.rods.map(([{ name }], i) => [name, i * 6]));
    this.pairs = PAIRS.flatMap(([a, b]): Pair[] => {
      const [from, to] = [index.get(a), index.get(b)];
      if (from === undefined || to === undefined) return [];
      const arms = [a, b].filter((part) => /forearm|hand/.test(part)).map((part) => part.split(' ')[0]);
      const thick = (of: Map<string, Capsule>): number => of.get(a)!.radius + of.get(b)!.radius;
      return [{ name: `${a} in ${b}`, from, to, mine: thick(mine), theirs: thick(theirs), arms }];
    });
    this.mine = new Float64Array(this.rods.length * 6);
    this.theirs = new Float64Array(this.rods.length * 6);
    this.near = TOUCHES * performer.legLength;
    this.found = this.pairs.map(({ name }) => ({ name, depths: [] }));
  }

  see(frame: number, mine: Pose, theirs: Pose): void {
    this.frames.push(frame);
    this.rods.forEach(([own, other], i) => {
      endsOf(this.mine, i * 6, own, mine);
      endsOf(this.theirs, i * 6, other, theirs);
    });
    for (let i = 0; i < this.pairs.length; i++) {
      const pair = this.pairs[i];
      const depth = 1 - between(this.mine, pair.from, pair.to) / pair.mine;
      const gap = between(this.theirs, pair.from, pair.to) - pair.theirs;
      this.found[i].depths.push(depth <= 0 ? 0 : Math.max(0, depth - Math.max(0, -gap / pair.theirs)));
      if (gap > this.near) continue;
      for (const side of pair.arms) if (this.touching[side].at(-1) !== frame) this.touching[side].push(frame);
    }
  }
}
