import { quat, type Case, type Clip, type FigureId, type RestSeen, type Rig, type SkinPoints } from '@hollow-stride/core';
import type { Scene } from './scene';
import { copyOf, moved, retimed, smoothed, swell, turned, turnedBut } from './spoil';

/** A fault that is planted in a good transfer, and the figure that must tell of it. */
export interface Planted {
  readonly name: string;
  readonly take: string;
  readonly figure: FigureId;
  readonly plant: (scene: Scene) => { readonly given: Case; readonly from?: number; readonly to?: number };
}

const DEG = Math.PI / 180;
const UP = [0, 1, 0] as const;
const SIDES = ['left', 'right'] as const;

/** The case with another motion. */
const withClip = ({ given }: Scene, result: Clip, from?: number, to?: number) => ({ given: { ...given, result }, from, to });

/** Turns joints one after the other about axes of the world. */
function turns(
  scene: Scene,
  list: readonly (readonly [role: string, axis: readonly [number, number, number], degrees: number])[],
  strength = (_: number) => 1,
): Clip {
  return list.reduce(
    (clip, [role, axis, degrees]) => turned(scene.rig, clip, scene.at(role), axis, degrees * DEG, strength),
    scene.given.result,
  );
}

/** A leg that is swung off at a time, seconds. */
function legSwung(name: string, take: string, at: number): Planted {
  return {
    name,
    take,
    figure: 'moment.legs',
    plant: (scene) => {
      const [first, last] = [scene.frame(at), scene.frame(at + 0.2)];
      return withClip(scene, turns(scene, [['left.upperLeg', axisOf(scene, 'left'), 50]], swell(first, last)), first - 8, last + 8);
    },
  };
}

/** The longest rest of a point in the middle of the take. */
function restOf({ verdict }: Scene, name: RegExp): RestSeen {
  return longest(verdict.rests.filter((rest) => name.test(rest.name) && rest.first > 30 && rest.last < verdict.frames - 30));
}

const longest = (list: readonly RestSeen[]): RestSeen => list.reduce((a, b) => (b.last - b.first > a.last - a.first ? b : a));

/** The longest rest of a hand that is raised before it and lowered after it. */
function handRest(scene: Scene): RestSeen {
  const { verdict, given, rig } = scene;
  const apart = (side: string, f: number, g: number): number => {
    const [a, b] = [f, g].map((frame) => (frame * rig.skeleton.parents.length + scene.at(`${side}.upperArm`)) * 4);
    return 1 - Math.abs([0, 1, 2, 3].reduce((sum, c) => sum + given.result.rotations[a + c] * given.result.rotations[b + c], 0));
  };
  const away = scene.frame(0.5);
  return longest(
    verdict.rests.filter(({ name, first, last }) => {
      const side = name.split(' ')[0];
      return (
        / palm/.test(name) &&
        first > away &&
        last + away < verdict.frames &&
        Math.min(apart(side, first - away, first), apart(side, last, last + away)) > 0.01
      );
    }),
  );
}

/** A direction of the character's body at rest. */
const axisOf = ({ rig }: Scene, which: 'left' | 'forward'): readonly [number, number, number] => [rig[which][0], 0, rig[which][2]];

/** All joints above the hips, and the arms. */
const upperOf = ({ rig }: Scene): number[] =>
  [...rig.roles]
    .filter(([role]) => /^(spine|neck|head|(left|right)\.(clavicle|upperArm|lowerArm|hand)$)/.test(role))
    .map(([, joint]) => joint);

/** A skin in which one point hangs on the other end of the body. */
function torn(skin: SkinPoints, from: number, to: number): SkinPoints {
  const point = skin.joints.indexOf(from);
  const influences = skin.influences.slice();
  const weights = skin.weights.slice();
  const locals = skin.locals.slice();
  const other = skin.joints.indexOf(to);
  for (let k = 0; k < 4; k++) {
    influences[point * 4 + k] = k === 0 ? to : -1;
    weights[point * 4 + k] = k === 0 ? 1 : 0;
  }
  locals.set(skin.locals.subarray(other * 12, other * 12 + 3), point * 12);
  return { ...skin, influences, weights, locals };
}

/** An arm that is brought to the leg beside it and stays there for a while. */
function handInLeg(scene: Scene, first: number, last: number): Clip {
  const ahead = axisOf(scene, 'forward');
  return turns(
    scene,
    [
      ['right.upperArm', ahead, -3],
      ['right.upperArm', axisOf(scene, 'left'), 18],
      ['right.lowerArm', ahead, 47],
    ],
    (f) => Math.max(0, Math.min(1, (f - first) / 10, (last - f) / 10)),
  );
}

/** A rig whose soles are taken to lie so far above where they are. */
function withSoles(rig: Rig, up: number): Rig {
  const shifted = (joint: number, local: Float64Array): Float64Array => {
    const way = Float64Array.of(0, up, 0);
    quat.unrotate(way, 0, rig.restPose.rotations, joint * 4, way, 0);
    return local.map((v, c) => v + way[c]);
  };
  return {
    ...rig,
    feet: rig.feet.map((foot) => ({
      ...foot,
      heel: shifted(foot.foot, foot.heel),
      ball: shifted(foot.foot, foot.ball),
      tip: shifted(foot.toes >= 0 ? foot.toes : foot.foot, foot.tip),
    })),
  };
}

/** The faults, each in a take that has room for it. */
export const PLANTED: readonly Planted[] = [
  {
    name: 'both feet turned by 30° in all their stances',
    take: 'walk-calm',
    figure: 'likeness.feet',
    plant: (scene) =>
      withClip(
        scene,
        turns(scene, [
          ['left.foot', UP, 30],
          ['right.foot', UP, 30],
        ]),
      ),
  },
  {
    name: 'all stances 12 cm inward',
    take: 'walk-calm',
    figure: 'places.feet',
    plant: (scene) => {
      const angle = 0.12 / scene.rig.legLength;
      const inward = (clip: Clip, side: (typeof SIDES)[number]): Clip =>
        turnedBut(
          scene.rig,
          clip,
          [scene.at(`${side}.upperLeg`), scene.at(`${side}.foot`)],
          axisOf(scene, 'forward'),
          (side === 'left' ? -1 : 1) * angle,
          () => 1,
        );
      return withClip(scene, SIDES.reduce(inward, scene.given.result));
    },
  },
  {
    name: 'one step 20 cm too long',
    take: 'walk-calm',
    figure: 'places.feet',
    plant: (scene) => {
      const { first, last } = restOf(scene, /left heel/);
      const angle = 0.2 / scene.rig.legLength;
      const joints = [scene.at('left.upperLeg'), scene.at('left.foot')] as const;
      const wide = (f: number): number => (f < first - 12 || f > last + 12 ? 0 : Math.min(1, (f - first + 12) / 12, (last + 12 - f) / 12));
      return withClip(scene, turnedBut(scene.rig, scene.given.result, joints, axisOf(scene, 'left'), -angle, wide), first - 12, last + 12);
    },
  },
  {
    name: 'a hand turned by 60° to its forearm',
    take: 'walk-calm',
    figure: 'likeness.hands',
    plant: (scene) => withClip(scene, turns(scene, [['right.hand', axisOf(scene, 'left'), 60]])),
  },
  {
    name: 'the head turned by 40°',
    take: 'walk-calm',
    figure: 'likeness.head',
    plant: (scene) => withClip(scene, turns(scene, [['head', UP, 40]])),
  },
  {
    name: 'the chest turned by 40°',
    take: 'walk-calm',
    figure: 'likeness.trunk',
    plant: (scene) => withClip(scene, turns(scene, [['spine.1', UP, 40]])),
  },
  {
    name: 'one arm swung off by 50° for 0.3 s',
    take: 'walk-circle',
    figure: 'moment.arms',
    plant: (scene) => {
      const [first, last] = [scene.frame(4), scene.frame(4.3)];
      return withClip(scene, turns(scene, [['right.upperArm', axisOf(scene, 'left'), 50]], swell(first, last)), first, last);
    },
  },
  legSwung('one leg swung off by 50° for 0.2 s', 'walk-circle', 5),
  legSwung('one leg swung off by 50° for 0.2 s, kneeling', 'kneel', 2.5),
  {
    name: 'the upper body smoothed over 0.15 s',
    take: 'walk-brisk',
    figure: 'energy.upper',
    plant: (scene) => withClip(scene, smoothed(scene.rig, scene.given.result, upperOf(scene), 0.15)),
  },
  {
    name: 'a thigh through the other thigh',
    take: 'point',
    figure: 'crossing',
    plant: (scene) => {
      const [first, last] = [scene.frame(2), scene.frame(2.8)];
      return withClip(scene, turns(scene, [['left.upperLeg', axisOf(scene, 'forward'), -30]], swell(first, last)), first, last);
    },
  },
  {
    name: 'a forearm through the chest',
    take: 'walk-calm',
    figure: 'crossing',
    plant: (scene) => {
      const [first, last] = [scene.frame(2), scene.frame(2.8)];
      return withClip(scene, turns(scene, [['right.upperArm', axisOf(scene, 'forward'), 45]], swell(first, last)), first, last);
    },
  },
  {
    name: 'a hand through the leg beside it',
    take: 'point',
    figure: 'crossing',
    plant: (scene) => {
      const [first, last] = [scene.frame(2.2), scene.frame(2.8)];
      return withClip(scene, handInLeg(scene, first, last), first, last);
    },
  },
  {
    name: 'soles measured 3 cm too deep: the mesh floats',
    take: 'walk-calm',
    figure: 'float',
    plant: (scene) => ({ given: scene.solvedAs(withSoles(scene.rig, -0.03)) }),
  },
  {
    name: 'soles measured 3 cm too high: the mesh sinks',
    take: 'walk-calm',
    figure: 'sink',
    plant: (scene) => ({ given: scene.solvedAs(withSoles(scene.rig, 0.035)) }),
  },
  {
    name: 'a flight a third too high',
    take: 'jump',
    figure: 'flight',
    plant: (scene) => {
      const [first, last] = flightIn(scene);
      const rise = heightsOf(scene, first, last);
      return withClip(
        scene,
        moved(scene.given.result, (f) => [0, f > first && f < last ? rise(f) / 3 : 0, 0]),
        first,
        last,
      );
    },
  },
  {
    name: 'a flight a third too short',
    take: 'jump',
    figure: 'flight',
    plant: (scene) => {
      const [first, last] = flightIn(scene);
      const width = last - first;
      // The body rises and falls in two thirds of the time, and hangs before it comes down.
      const from = (f: number): number => (f < first || f > last ? f : Math.min(last, first + (f - first) * 1.5));
      return withClip(scene, retimed(scene.rig, scene.given.result, from), first, first + width + 1);
    },
  },
  {
    name: 'a landing one frame late',
    take: 'jump',
    figure: 'timing.feet',
    plant: (scene) => {
      const [, last] = flightIn(scene);
      const legs = [...scene.rig.roles].filter(([role]) => /upperLeg|lowerLeg|foot|toes/.test(role)).map(([, joint]) => joint);
      const late = (f: number): number => (f > last - 14 && f < last + 12 ? f - 1 : f);
      const spoilt = retimed(scene.rig, scene.given.result, late, legs);
      const { values } = scene.given.result.moves[0];
      const out = copyOf(spoilt);
      for (let f = last - 13; f < last + 12; f++) for (let c = 0; c < 3; c++) out.moves[0].values[f * 3 + c] = values[(f - 1) * 3 + c];
      return withClip(scene, out, last - 14, last + 14);
    },
  },
  {
    name: 'a hand that comes to its rest 0.15 s late',
    take: 'point',
    figure: 'timing.hands',
    plant: (scene) => late(scene, 'comes'),
  },
  {
    name: 'a hand that leaves its rest 0.15 s early',
    take: 'point',
    figure: 'timing.hands',
    plant: (scene) => late(scene, 'leaves'),
  },
  {
    name: 'a hand at rest in another place',
    take: 'point',
    figure: 'places.hands',
    plant: (scene) => {
      const rest = handRest(scene);
      const side = rest.name.split(' ')[0];
      const wide = (f: number): number => Math.max(0, Math.min(1, (f - rest.first + 15) / 15, (rest.last + 15 - f) / 15));
      return withClip(scene, turns(scene, [[`${side}.upperArm`, UP, 25]], wide), rest.first - 15, rest.last + 15);
    },
  },
  {
    name: 'one torn ear among all triangles',
    take: 'walk-calm',
    figure: 'pull',
    plant: (scene) => ({ given: { ...scene.given, skin: torn(scene.given.skin!, scene.at('head'), scene.at('left.hand')) } }),
  },
  {
    name: 'one frame missing',
    take: 'walk-brisk',
    figure: 'order',
    plant: (scene) => {
      const at = scene.frame(3);
      return withClip(
        scene,
        retimed(scene.rig, scene.given.result, (f) => (f >= at ? f + 1 : f)),
        at - 1,
        at + 1,
      );
    },
  },
  {
    name: 'one frame doubled',
    take: 'walk-brisk',
    figure: 'order',
    plant: (scene) => {
      const at = scene.frame(3);
      return withClip(
        scene,
        retimed(scene.rig, scene.given.result, (f) => (f === at ? f - 1 : f)),
        at - 1,
        at + 1,
      );
    },
  },
  {
    name: 'one frame exchanged with its neighbour',
    take: 'walk-brisk',
    figure: 'order',
    plant: (scene) => {
      const at = scene.frame(3);
      return withClip(
        scene,
        retimed(scene.rig, scene.given.result, (f) => (f === at ? at + 1 : f === at + 1 ? at : f)),
        at - 1,
        at + 2,
      );
    },
  },
];

/** Heights of the hips over the line from the first frame of a flight to the last. */
function heightsOf({ given }: Scene, first: number, last: number): (frame: number) => number {
  const { values } = given.result.moves[0];
  const y = (f: number): number => values[f * 3 + 1];
  return (f) => y(f) - (y(first) + ((y(last) - y(first)) * (f - first)) / (last - first));
}

/** The frames between the last rest of a foot before the highest point of the hips and the first one after it. */
function flightIn({ verdict, given }: Scene): readonly [number, number] {
  const { values } = given.result.moves[0];
  let top = 0;
  for (let f = 0; f < verdict.frames; f++) if (values[f * 3 + 1] > values[top * 3 + 1]) top = f;
  const feet = verdict.rests.filter(({ kind }) => kind === 'feet');
  return [
    Math.max(...feet.map(({ last }) => (last < top ? last : 0))),
    Math.min(...feet.map(({ first }) => (first > top ? first : verdict.frames - 1))),
  ];
}

/** Shifts one arm in time about the beginning or the end of its longest rest. */
function late(scene: Scene, what: 'comes' | 'leaves'): ReturnType<Planted['plant']> {
  const rest = handRest(scene);
  const side = rest.name.split(' ')[0];
  const shift = scene.frame(0.15);
  const width = scene.frame(0.6);
  const arm = ['upperArm', 'lowerArm', 'hand'].map((part) => scene.at(`${side}.${part}`));
  const [first, last] = what === 'comes' ? [rest.first - width, rest.first + width] : [rest.last - width, rest.last + width];
  const ease = (f: number): number => Math.max(0, Math.min(1, (f - first) / 15, (last - f) / 15));
  const sign = what === 'comes' ? -1 : 1;
  return withClip(
    scene,
    retimed(scene.rig, scene.given.result, (f) => f + sign * shift * ease(f), arm),
    first,
    last + 1,
  );
}
