import { DEFAULT_DECISIONS, DEFAULT_PAIRING } from './choices';
import { joinChoices, JOIN_PARTS, type JoinPart, type Joinable } from './join';
import { makeTouchUp, TOUCH_UP_KINDS, type TouchUp } from './touchUps';

type Own = Joinable<{ readonly touchUp: TouchUp }>;
const entry = (touchUp: TouchUp) => ({ touchUp });
const base: Own = {
  ...DEFAULT_PAIRING,
  ...DEFAULT_DECISIONS,
  turns: { 'left.upperArm': [1, 0, 0], 'left.upperLeg': [2, 0, 0], 'spine.1': [3, 0, 0] },
  touchUps: [
    entry(makeTouchUp({ kind: 'lean', value: 1 })),
    entry(makeTouchUp({ kind: 'arms', value: 2 })),
    entry(makeTouchUp({ kind: 'knees', value: 3 })),
  ],
};
const other: Own = {
  ...base,
  hands: 0.5,
  apart: false,
  head: 0.4,
  stride: 'marks',
  follow: { leftArm: 0.1, rightArm: 0.2, leftLeg: 0.3, rightLeg: 0.4 },
  turns: { 'right.hand': [9, 0, 0], 'left.foot': [8, 0, 0] },
  links: { 'left.hand': null, head: null },
  touchUps: [
    entry(makeTouchUp({ kind: 'elbows', value: 7 })),
    entry(makeTouchUp({ kind: 'joint', role: 'right.foot', value: 6 })),
    entry(makeTouchUp({ kind: 'joint', role: 'left.hand', value: 5 })),
    entry(makeTouchUp({ kind: 'hips', value: 4 })),
  ],
};
const values = ({ touchUps }: Own): number[] => touchUps.map(({ touchUp }) => touchUp.value);

describe('decisions joined part by part', () => {
  it('take what concerns the part, in its place, and leave all else', () => {
    const arms = joinChoices(base, other, 'arms');
    expect(values(arms)).toEqual([1, 7, 5, 3]);
    expect(arms.turns).toEqual({ 'left.upperLeg': [2, 0, 0], 'spine.1': [3, 0, 0], 'right.hand': [9, 0, 0] });
    expect(arms.links).toEqual({ 'left.hand': null });
    expect(arms.follow).toEqual({ leftArm: 0.1, rightArm: 0.2, leftLeg: 1, rightLeg: 1 });
    expect([arms.hands, arms.apart, arms.head, arms.stride]).toEqual([0.5, true, 'keep', 'legs']);
    expect(values(joinChoices(base, other, 'legs'))).toEqual([1, 2, 6]);
    expect(values(joinChoices(base, other, 'trunk'))).toEqual([2, 3]);
    expect(values(joinChoices(base, other, 'way'))).toEqual([1, 2, 3, 4]);
  });

  it('are the other’s once every part has been taken, whatever the touch-ups are', () => {
    const all = TOUCH_UP_KINDS.map((kind, i) => entry(makeTouchUp({ kind, value: i, ...(kind === 'joint' && { role: 'head' }) })));
    const whole = JOIN_PARTS.reduce((joined: Own, part: JoinPart) => joinChoices(joined, { ...other, touchUps: all }, part), base);
    const sorted = (own: Own): number[] => values(own).sort((a, b) => a - b);
    expect(sorted(whole)).toEqual(sorted({ ...other, touchUps: all }));
    expect({ ...whole, touchUps: [] }).toEqual({ ...other, touchUps: [] });
  });

  it('are themselves where both are the same', () => {
    for (const part of JOIN_PARTS) expect(joinChoices(other, other, part)).toEqual(other);
  });
});
