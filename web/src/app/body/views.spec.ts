import { ClipReader, DEFAULT_SKELETON, REQUIRED_ROLES } from '@hollow-stride/core';
import { makeFile, onFourLegs, randomShape } from '../../../../core/src/testing';
import { bodyViewOf } from './body-view';
import { makeBodyView, makeMatchView, makeTakeView } from '../testing/views';

describe('the view of a body', () => {
  it('has a skeleton that is whole with its rails, range check and motion', () => {
    const view = makeBodyView();
    expect(view.missing).toEqual([]);
    expect(view.mistakes).toEqual([]);
    expect(view.facts.body?.unit.unit).toBe('cm');
    expect(view.range.steps.length).toBe(14);
    expect(view.clip?.frames).toBe(150);
    expect(view.display.labelled[view.roles['left.hand']]).toBe(1);
  });

  it('lays out a skeleton that is not whole, so that it can be labelled', () => {
    const labels = { hips: 'Hips', head: 'Head' };
    const view = makeBodyView({ labels });
    expect([...view.missing].sort()).toEqual(REQUIRED_ROLES.filter((role) => !(role in labels)).sort());
    expect(view.facts.body).toBeUndefined();
    expect(view.rest.positions.every(Number.isFinite)).toBeTrue();
    expect(view.display.height).toBeGreaterThan(1);
    expect(view.clip?.frames).toBe(150);
  });

  it('labels a body on four legs, front legs as arms, and says so', () => {
    const shape = onFourLegs(randomShape(6, { clavicles: true, spine: 3, neck: 1 }));
    const file = makeFile(shape, { name: 'hound.bvh' });
    const view = bodyViewOf(file, { file: 'h', name: 'hound.bvh', clip: 0, skeleton: DEFAULT_SKELETON, reference: null });
    expect(view.missing).toEqual([]);
    expect(view.facts.warnings.map(({ code }) => code)).toContain('label/four-legs');
  });

  it('names mistakes with the labels as they would be corrected', () => {
    const { roles, display } = makeBodyView();
    const labels = Object.fromEntries(Object.entries(roles).map(([role, joint]) => [role, display.skeleton.names[joint]]));
    const { mistakes } = makeBodyView({ labels: { ...labels, hips: labels['ground'], ground: '' } });
    expect(mistakes[0]).toEqual(jasmine.objectContaining({ kind: 'ground', role: 'hips' }));
    expect(mistakes[0].fixed?.['hips']).toBe('Hips');
    expect(mistakes[0].fixed?.['ground']).toBe('Ground');
  });
});

describe('the view of a take', () => {
  it('lays what was recorded and what is set beside each other, whole', () => {
    const view = makeTakeView({ from: 20 / 60, to: 99 / 60, fps: 30, floor: { height: 0.5, heading: 0, place: [0, 0] } });
    expect([view.before.frames, view.after.frames, view.result.frames]).toEqual([150, 150, 40]);
    expect(view.result.frameTime).toBeCloseTo(1 / 30, 9);
    const at = (clip: typeof view.before): number =>
      new ClipReader(view.display.skeleton, clip).at(70).positions[view.display.hips * 3 + 1];
    expect(at(view.after) - at(view.before)).toBeCloseTo(0.5, 5);
    expect(Math.abs(view.floor)).toBeLessThan(0.02);
  });
});

describe('the view of a pairing', () => {
  it('has both bodies, how far apart they are, and the frames that are looked at', () => {
    const view = makeMatchView({}, 60);
    const limbs = view.segments.filter(({ role }) => /(upper|lower)(Arm|Leg)$/.test(role));
    expect(limbs.length).toBe(8);
    expect(limbs.every(({ character, performer }) => character[0] >= 0 && performer[1] >= 0)).toBeTrue();
    const roles = view.segments.map(({ role }) => role);
    expect(new Set(roles).size).toBe(roles.length);
    expect(roles).toEqual(jasmine.arrayContaining(['spine.1', 'neck.1', 'head', 'left.hand', 'right.foot']));
    for (const { role, after } of limbs) expect(after).withContext(role).toBeLessThan(0.5);
    expect(view.window.first).toBeLessThanOrEqual(60);
    expect(view.window.first + view.window.clip.frames).toBeGreaterThan(60);
    expect(view.ladders.find(({ chain }) => chain === 'trunk')!.character.length).toBe(6);
  });

  it('shows a turn by hand where it is', () => {
    const view = makeMatchView({ turns: { 'left.upperArm': [0, 0, 30] } });
    const segment = view.segments.find(({ role }) => role === 'left.upperArm')!;
    expect(segment.after).toBeCloseTo(30, 0);
    expect(segment.reason).toContain('by hand');
    expect(view.warnings.some(({ message }) => message.startsWith('left.upperArm is 30'))).toBeTrue();
  });
});
