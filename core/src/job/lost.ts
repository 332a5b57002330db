/** Cautions about parts of a take that cannot be carried over, given before the result is used. */
import { emptyTouches, type Contacts } from '../contact';
import type { Fault } from '../errors';
import { sharedProps, type Pairing } from '../match';
import { clipOf, type Rig } from '../rig';
import { slidesAway } from '../solve';
import type { MotionFile } from '../formats';
import type { Recipe } from '../recipe';

/** The parts of a job that are looked at here. */
interface Job {
  readonly take: MotionFile;
  readonly clip: number;
  readonly character: MotionFile;
  readonly recipe: Recipe;
}

/** Limbs that a person lets be drawn out on a file that cannot say so. */
export function lostStretch({ character: file, recipe }: Job, { roles, canMove }: Rig): Fault[] {
  if (recipe.solve.stretch === 0) return [];
  const fixed = ['left', 'right'].flatMap((side) => ['lowerLeg', 'foot', 'lowerArm', 'hand'].map((part) => roles.get(`${side}.${part}`)));
  if (!fixed.some((joint) => joint !== undefined && canMove[joint] === 0)) return [];
  const message = 'this file states turns but no places for joints inside the body: limbs whose joints have none keep their length';
  return [{ code: 'option', message, where: { file: file.name } }];
}

/** Props that the character holds and the take does not have. */
export function lostTouches({ take, recipe }: Job, contacts: Contacts): Fault[] {
  const empty = emptyTouches(contacts).map(({ side, part, first }): Fault => ({
    code: 'option',
    message: `the performer's ${side} hand is not near its ${part} there: the touch holds nothing`,
    where: { file: take.name, frame: first + 1 },
  }));
  const floating = !contacts.body && (recipe.take.rests ?? []).some(({ kind }) => kind === 'add');
  const message = 'no part of the body comes near the floor in this take: what was laid on it is not held';
  return floating ? [...empty, { code: 'option', message, where: { file: take.name } }] : empty;
}

/** Joints that change their place in the take and keep it on the character. */
export function lostSlides({ take: file, clip }: Job, performer: Rig, pairing: Pairing): Fault[] {
  const { twins, character } = pairing;
  if ((file.clips[clip]?.frames ?? 0) === 0) return [];
  const kept = new Set([...(twins ?? [])].filter(([joint]) => character.canMove[joint] === 1).map(([, source]) => source));
  for (const { source } of sharedProps(pairing)) kept.add(source);
  return clipOf(file, performer, clip).moves.flatMap(({ joint, values }): Fault[] => {
    let above = performer.carrier;
    while (above >= 0 && above !== joint) above = performer.skeleton.parents[above];
    // The joint that carries the body is placed by the root; above it only the place of the body counts.
    if (above === joint || kept.has(joint) || !slidesAway(values, performer.skeleton.restT, joint, 50 * performer.legLength)) return [];
    return [
      {
        code: 'take/slide',
        message: 'this joint changes its place at its parent in the take; the character keeps the length of its bones',
        where: { file: file.name, joint: performer.skeleton.names[joint] },
      },
    ];
  });
}

/** Joints that grow in the take: a body does not. */
export function lostSizes({ take: file, clip }: Job, { skeleton }: Rig): Fault[] {
  return (file.clips.at(clip)?.sizes ?? []).map(({ joint }): Fault => ({
    code: 'take/slide',
    message: 'this joint grows or shrinks in the take; on a body it keeps its size. Pair joint by joint to carry it over',
    where: { file: file.name, joint: skeleton.names[joint] },
  }));
}
