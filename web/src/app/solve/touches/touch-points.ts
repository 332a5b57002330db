import type { BodyPart, Role, Side } from '@hollow-stride/core';
import { partName, type LaneOf } from '../lanes/lanes';
import type { Solved } from '../../solver/messages';

/** A place on the body that is pressed: what it is called, and the joint that it stands at. */
export interface TouchPoint {
  readonly name: string;
  readonly role: Role;
  /** Where no role of the character says it. */
  readonly joint?: number;
  /** Result of a press: the hand whose partner is chosen next, or the finished touch. */
  readonly hand?: Side;
  readonly of?: LaneOf;
}

const SIDES: readonly Side[] = ['left', 'right'];
const otherOf = (side: Side): Side => (side === 'left' ? 'right' : 'left');
const floor = (name: string, role: Role, part: BodyPart): TouchPoint => ({
  name: `${name} on the floor`,
  role,
  of: { kind: 'body', part },
});

/** First ends of a touch: hands, whose partner is chosen next, and parts of the body on the floor. @param chest last joint of the spine */
export function sourcesOf(chest: Role | undefined): TouchPoint[] {
  return [
    ...SIDES.map((side): TouchPoint => ({ name: `${side} hand`, role: `${side}.hand`, hand: side })),
    ...SIDES.map((side) => floor(`${side} knee`, `${side}.lowerLeg`, `${side}.knee`)),
    floor('seat', 'hips', 'seat'),
    ...(chest === undefined ? [] : [floor('back', chest, 'back')]),
    floor('head', 'head', 'head'),
  ];
}

/** Partners of a hand: a rest in place, the other hand, parts of the body, props. */
export function partnersOf(side: Side, props: Solved['props']): TouchPoint[] {
  const other = otherOf(side);
  const on = (name: string, role: Role, part = role): TouchPoint => ({ name, role, of: { kind: 'touch', side, on: 'body', part } });
  return [
    { name: 'nothing else: it rests where it is', role: `${side}.hand`, of: { kind: 'touch', side, on: 'rest' } },
    { name: `${other} hand`, role: `${other}.hand`, of: { kind: 'touch', side: 'left', on: 'hand' } },
    on('head', 'head'),
    on('trunk', 'hips'),
    ...SIDES.map((one) => on(`${one} thigh`, `${one}.upperLeg`)),
    on(`${other} upper arm`, `${other}.upperArm`),
    on(`${other} forearm`, `${other}.lowerArm`),
    ...props.flatMap(({ role, joint }): TouchPoint[] =>
      joint === undefined ? [] : [{ name: partName(role), role, joint, of: { kind: 'touch', side, on: 'prop', part: role } }],
    ),
  ];
}
