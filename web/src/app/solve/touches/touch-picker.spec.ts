import { TestBed } from '@angular/core/testing';
import { ClipReader, type Role } from '@hollow-stride/core';
import type { LaneOf } from '../lanes/lanes';
import { pressable } from '../../testing/fake-stage';
import { makeSolved } from '../../testing/solved';
import type { Solved } from '../../solver/messages';
import { TouchPickerComponent } from './touch-picker.component';

describe('TouchPickerComponent', () => {
  async function open(props: Solved['props'] = []) {
    const fixture = TestBed.createComponent(TouchPickerComponent);
    const solved = { ...makeSolved(), props };
    fixture.componentRef.setInput('solved', solved);
    const picked: LaneOf[] = [];
    let ended = 0;
    fixture.componentInstance.picked.subscribe((of) => picked.push(of));
    fixture.componentInstance.left.subscribe(() => ended++);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const press = async (name: string): Promise<void> => {
      pressable(host, name).click();
      await fixture.whenStable();
    };
    return { fixture, solved, picked, host, press, ended: () => ended };
  }

  it('makes a touch of two presses: a hand, then what it touches', async () => {
    const { picked, press, host } = await open();
    await press('right hand');
    expect(host.querySelector('[role=status]')!.textContent).toContain('what the right hand touches');
    await press('left thigh');
    await press('left hand');
    await press('Back');
    await press('left hand');
    await press('right hand');
    expect(picked).toEqual([
      { kind: 'touch', side: 'right', on: 'body', part: 'left.upperLeg' },
      { kind: 'touch', side: 'left', on: 'hand' },
    ]);
  });

  it('lays a knee on the floor with one press, and can be left', async () => {
    const { picked, press, ended } = await open();
    await press('left knee on the floor');
    await press('Cancel');
    expect(picked).toEqual([{ kind: 'body', part: 'left.knee' }]);
    expect(ended()).toBe(1);
  });

  it('puts a hand on a thing beside the body, where the character has it', async () => {
    const { picked, press, host, fixture } = await open([
      { role: 'extra.crate.1', joint: 3 },
      { role: 'extra.pole.1', joint: undefined },
    ]);
    await press('left hand');
    expect(fixture.componentInstance.joints().at(-1)).toBe(3);
    expect(host.textContent).not.toContain('pole');
    await press('crate');
    expect(picked).toEqual([{ kind: 'touch', side: 'left', on: 'prop', part: 'extra.crate.1' }]);
  });

  it('offers what the hand is nearest to at this frame, the nearest first', async () => {
    const { fixture, solved, picked, press, host } = await open();
    await press('right hand');
    const offered = [...host.querySelectorAll<HTMLButtonElement>('.near button')];
    const centimetres = offered.map(({ textContent }) => Number(/(\d+) cm/.exec(textContent ?? '')?.[1]));
    expect(centimetres.length).toBe(3);
    expect([...centimetres].sort((a, b) => a - b)).toEqual(centimetres);
    // No farther than the joint that the part begins at.
    const { positions } = new ClipReader(solved.character.skeleton, solved.solved).at(0);
    const place = (role: Role): number[] => [...positions.slice(solved.roles.get(role)! * 3, solved.roles.get(role)! * 3 + 3)];
    const hand = place('right.hand');
    const toHips = Math.hypot(...place('hips').map((v, i) => v - hand[i]));
    expect(centimetres[0]).toBeLessThanOrEqual(Math.round(toHips * 100));
    offered[0].click();
    await fixture.whenStable();
    expect(picked.length).toBe(1);
    expect(host.querySelector('.near')).toBeNull();
  });

  it('stands at the joints of what can be pressed', async () => {
    const { fixture, solved, host } = await open();
    const joints = fixture.componentInstance.joints();
    expect(joints[0]).toBe(solved.roles.get('left.hand')!);
    const places = new Float64Array(joints.length * 2).fill(NaN);
    places.set([30, 40]);
    fixture.componentInstance.place(places);
    const knobs = [...host.querySelectorAll<HTMLElement>('.knob')];
    expect(knobs.length).toBe(joints.length);
    expect(knobs[0].style.transform).toContain('30px, 40px');
    expect(knobs[1].style.transform).toContain('-100px');
  });
});
