import type { BodyPart, Role, Side } from '@hollow-stride/core';
import { partName, type LaneOf } from '../lanes/lanes';
import type { Solved } from '../../solver/messages';

/** A place on the body that is pressed: what it is called, and the joint that it stands at. */
export interface TouchPoint {
  readonly name: string;
  readonly role: Role;
  /** Where no role of the character says it. */
  readonly joint?: number;
  /** What a press does: names the hand whose partner is chosen next, or says all that there is to say. */
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

/** What may touch something: hands, whose partner is chosen next, and parts of the body on the floor. @param chest last joint of the spine */
export function sourcesOf(chest: Role | undefined): TouchPoint[] {
  return [
    ...SIDES.map((side): TouchPoint => ({ name: `${side} hand`, role: `${side}.hand`, hand: side })),
    ...SIDES.map((side) => floor(`${side} knee`, `${side}.lowerLeg`, `${side}.knee`)),
    floor('seat', 'hips', 'seat'),
    ...(chest === undefined ? [] : [floor('back', chest, 'back')]),
    floor('head', 'head', 'head'),
  ];
}

/** What a hand may touch: what it rests on, the other hand, parts of the own body, things beside it. */
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
