/** The labelling study: how many required roles automatic labelling gets right, over ways of naming and kinds of body. */
import { labelFile } from '../rig';
import { REQUIRED_ROLES } from '../label';
import { randomShape, makeFile, type Shape, type ShapeOptions } from './bodies';
import { INVENTED, NAMELESS, NAMINGS, type Naming } from './namings';
import { Rebuild } from './rebuild';
import { walk } from './walker';

export interface BodyKind {
  readonly title: string;
  readonly options: ShapeOptions;
  /** Joints added to the plain body. */
  change?(body: Rebuild): Rebuild;
}

const SIDES = [
  ['left', 1],
  ['right', -1],
] as const;

const FULL: ShapeOptions = { spine: 3, neck: 1, clavicles: true, fingers: 5 };

/** Bodies as they come: few joints and many, and joints that are no part of a body. */
export const BODY_KINDS: readonly BodyKind[] = [
  { title: 'plain, no fingers', options: { spine: 2, neck: 1, clavicles: true } },
  { title: 'five fingers', options: FULL },
  { title: 'three fingers', options: { ...FULL, fingers: 3 } },
  { title: 'one spine joint', options: { ...FULL, spine: 1, fingers: 0 } },
  { title: 'five spine joints, two neck joints', options: { ...FULL, spine: 5, neck: 2 } },
  { title: 'eight spine joints', options: { ...FULL, spine: 8, fingers: 0 } },
  { title: 'no clavicles', options: { ...FULL, clavicles: false } },
  { title: 'no toes', options: { ...FULL, toes: false, fingers: 0 } },
  { title: 'ground joint', options: { ...FULL, ground: true } },
  { title: 'joints of no length', options: { ...FULL, helpers: true } },
  { title: 'leaf joints at all ends', options: { ...FULL, ends: true } },
  { title: 'very unlike limbs', options: { ...FULL, spread: [0.6, 1.6] } },
  {
    title: 'twist joints in all limbs',
    options: { ...FULL, ends: true },
    change: (body) => {
      for (const [side] of SIDES) {
        for (const [limb, next] of [
          ['upperArm', 'lowerArm'],
          ['lowerArm', 'hand'],
          ['upperLeg', 'lowerLeg'],
        ] as const) {
          const [x, y, z] = body.offset(`${side}.${next}`);
          body.add(`${side}.${limb}.twist.1`, `${side}.${limb}`, [x * 0.33, y * 0.33, z * 0.33]);
          body.add(`${side}.${limb}.twist.2`, `${side}.${limb}`, [x * 0.66, y * 0.66, z * 0.66]);
        }
      }
      return body;
    },
  },
  {
    title: 'twist joints in the way of each limb',
    options: FULL,
    change: (body) => {
      for (const [side] of SIDES) {
        for (const [limb, next] of [
          ['upperArm', 'lowerArm'],
          ['lowerArm', 'hand'],
        ] as const)
          body.divide(`${side}.${next}`, `${side}.${limb}.twist.1`, 0.5);
      }
      return body;
    },
  },
  {
    title: 'a prop in the hand',
    options: { ...FULL, fingers: 3 },
    change: (body) => body.add('prop', 'right.hand', [-0.08, -0.02, 0.05]).add('prop.end', 'prop', [0, -0.5, 0]),
  },
  {
    title: 'a cloak of nine joints',
    options: FULL,
    change: (body) => {
      for (const [i, x] of [-0.12, 0, 0.12].entries()) {
        body
          .add(`cloak${i}.1`, 'spine.3', [x, 0.05, -0.1])
          .add(`cloak${i}.2`, `cloak${i}.1`, [0, -0.25, -0.05])
          .add(`cloak${i}.3`, `cloak${i}.2`, [0, -0.3, -0.05]);
      }
      return body;
    },
  },
  {
    title: 'a tail of six joints',
    options: FULL,
    change: (body) => {
      for (let i = 1; i <= 6; i++) body.add(`tail.${i}`, i === 1 ? 'hips' : `tail.${i - 1}`, [0, -0.06, -0.12]);
      return body;
    },
  },
  {
    title: 'hock legs',
    options: { ...FULL, fingers: 3 },
    change: (body) => {
      for (const [side] of SIDES)
        body.divide(`${side}.foot`, `${side}.hock`, 0.55).shift(`${side}.hock`, [0, 0, -0.09]).shift(`${side}.foot`, [0, 0, 0.09]);
      return body;
    },
  },
  { title: 'limbs from half to double', options: { ...FULL, spread: [0.5, 2] } },
  {
    title: 'a joint of no length before each thigh, named like it',
    options: FULL,
    change: (body) => {
      for (const [side] of SIDES)
        body
          .add(`${side}.upperLeg.base`, 'hips', body.offset(`${side}.upperLeg`))
          .move(`${side}.upperLeg`, `${side}.upperLeg.base`, [0, 0, 0]);
      return body;
    },
  },
  {
    title: 'shoulders that begin with a joint of no length in the chest',
    options: { ...FULL, fingers: 0 },
    change: (body) => {
      for (const [side] of SIDES) body.add(`${side}.shoulderBase`, 'spine.3', [0, 0, 0]).move(`${side}.clavicle`, `${side}.shoulderBase`);
      return body;
    },
  },
  {
    title: 'one chain for all fingers',
    options: { ...FULL, fingers: 0 },
    change: (body) => {
      for (const [side, s] of SIDES) {
        body
          .add(`${side}.fingers.1`, `${side}.hand`, [s * 0.09, 0, 0])
          .add(`${side}.fingers.2`, `${side}.fingers.1`, [s * 0.04, 0, 0])
          .add(`${side}.fingers.3`, `${side}.fingers.2`, [s * 0.03, 0, 0]);
      }
      return body;
    },
  },
  {
    title: 'jaw, eyes and long hair',
    options: FULL,
    change: (body) => {
      for (const [side, s] of SIDES) body.add(`${side}.eye`, 'head', [s * 0.03, 0.08, 0.08]);
      body.add('jaw', 'head', [0, 0, 0.03]).add('jaw.end', 'jaw', [0, -0.03, 0.08]);
      for (let i = 1; i <= 4; i++) body.add(`hair.${i}`, i === 1 ? 'head' : `hair.${i - 1}`, i === 1 ? [0, 0.15, -0.08] : [0, -0.1, -0.06]);
      return body;
    },
  },
  {
    title: 'a face of eight joints',
    options: FULL,
    change: (body) => {
      for (const [side, s] of SIDES) {
        body
          .add(`${side}.eye`, 'head', [s * 0.03, 0.08, 0.08])
          .add(`${side}.brow`, 'head', [s * 0.03, 0.11, 0.09])
          .add(`${side}.lip`, 'head', [s * 0.02, 0.02, 0.09]);
      }
      return body.add('jaw', 'head', [0, 0, 0.03]).add('tongue', 'jaw', [0, -0.01, 0.04]);
    },
  },
];

/** A body of a kind. */
export function bodyOfKind({ options, change }: BodyKind, seed: number): Shape {
  const shape = randomShape(seed, options);
  return change ? change(new Rebuild(shape)).shape() : shape;
}

export interface Score {
  readonly right: number;
  readonly all: number;
  /** The first few that were wrong, for people. */
  readonly wrong: readonly string[];
}

/** Labels one body and counts the required roles that are right. */
export function labelScore(shape: Shape, names: (role: string) => string, seed: number): Score {
  const file = makeFile(
    shape,
    { names, axes: seed, metres: [1, 0.01, 0.0254][seed % 3], up: seed % 2 ? '+Y' : '+Z' },
    walk(shape, { seed, frames: 24 }),
  );
  const { roles } = labelFile(file);
  const wrong: string[] = [];
  for (const role of REQUIRED_ROLES) {
    const found = roles.get(role);
    const is = found === undefined ? 'none' : shape.joints[found].role;
    if (is !== role) wrong.push(`${role} is ${is}`);
  }
  return { right: REQUIRED_ROLES.length - wrong.length, all: REQUIRED_ROLES.length, wrong };
}

function sum(scores: readonly Score[]): Score {
  return {
    right: scores.reduce((n, s) => n + s.right, 0),
    all: scores.reduce((n, s) => n + s.all, 0),
    wrong: scores.flatMap((s) => s.wrong),
  };
}

/** Names that say nothing, no two alike. */
export function scrambled(shape: Shape): (role: string) => string {
  const place = new Map(shape.joints.map(({ role }, j) => [role, j]));
  return (role) => `${NAMELESS.name(role)}_${place.get(role)}`;
}

export interface Study {
  readonly namings: readonly { readonly naming: Naming; readonly score: Score }[];
  readonly bodies: readonly { readonly kind: BodyKind; readonly named: Score; readonly scrambled: Score; readonly unknown: Score }[];
}

/**
 * The whole study: every way of naming over every kind of body.
 * @param seeds bodies of each kind with names; and without, which are drawn anew
 */
export function labellingStudy({ named, nameless }: { named: number; nameless: number }): Study {
  const grid = NAMINGS.map((naming, n) =>
    BODY_KINDS.map((kind, k) =>
      sum(
        Array.from({ length: named }, (_, i) => {
          const seed = 1 + i + n * 7 + k * 131;
          return labelScore(bodyOfKind(kind, seed), naming.name.bind(naming), seed);
        }),
      ),
    ),
  );
  return {
    namings: NAMINGS.map((naming, n) => ({ naming, score: sum(grid[n]) })),
    bodies: BODY_KINDS.map((kind, k) => {
      const without = (namesOf: (shape: Shape) => (role: string) => string): Score =>
        sum(
          Array.from({ length: nameless }, (_, i) => {
            const seed = 5000 + i + k * 211;
            const shape = bodyOfKind(kind, seed);
            return labelScore(shape, namesOf(shape), seed);
          }),
        );
      return {
        kind,
        named: sum(grid.map((row) => row[k])),
        scrambled: without(scrambled),
        unknown: without(() => INVENTED.name.bind(INVENTED)),
      };
    }),
  };
}
