import { TestBed } from '@angular/core/testing';
import type { ChangeTake } from '@hollow-stride/contract';
import { DEFAULT_TAKE } from '@hollow-stride/core';
import { BehaviorSubject, of } from 'rxjs';
import { PairStore } from '../pair/pair.store';
import { DEFAULT_CHOICES, ProjectStore } from '../project/project.store';
import { makeSolved } from '../testing/solved';
import { KeptStore } from './kept.store';
import { SettingsPanelComponent } from './settings-panel.component';
import { editsToProject } from '../testing/edits';
import { SolveStore, type SolveState } from './solve.store';

describe('SettingsPanelComponent', () => {
  it('shows which choice holds, makes choices, and shows the scale with its reason', async () => {
    const solved = makeSolved();
    const state = new BehaviorSubject<SolveState>({
      take: undefined,
      character: undefined,
      choices: DEFAULT_CHOICES,
      pair: undefined,
      solved,
      result: solved,
      busy: false,
      progress: undefined,
      cancelled: false,
      fault: undefined,
    });
    const changes: object[] = [];
    const takes: unknown[] = [];
    const pair = { take: { id: 't1', choices: DEFAULT_TAKE } };
    TestBed.configureTestingModule({
      providers: [
        {
          provide: SolveStore,
          useValue: { state$: state },
        },
        { provide: KeptStore, useValue: { change: (c: object) => changes.push(c), waitFor: () => undefined } },
        { provide: PairStore, useValue: { pair$: of(pair), now: pair } },
        ...editsToProject,
        { provide: ProjectStore, useValue: { changeTake: (id: string, { choices }: ChangeTake) => takes.push([id, choices?.detection]) } },
      ],
    });
    const fixture = TestBed.createComponent(SettingsPanelComponent);
    const host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
    const button = (name: string): HTMLButtonElement => [...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === name)!;
    expect(button('by legs').getAttribute('aria-pressed')).toBe('true');
    button('keep marks').click();
    button('at zero').click();
    [...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === 'let be')!.click();
    const type = (name: string, was: string, value: string): void => {
      const field = host.querySelector<HTMLInputElement>(`hs-number input[aria-label="${name}"]`)!;
      expect(field.value).withContext(name).toBe(was);
      field.value = value;
      field.dispatchEvent(new Event('change'));
    };
    type('hands hold, %', '100', '40');
    type('left leg holds, %', '100', '0');
    type('balance, %', '0', '50');
    type('shoulders carried, %', '0', '30');
    type('limbs stretch by up to, %', '0', '8');
    type('feet, speed of rests, %', '100', '150');
    type('height of the floor in the take, cm', '0', '12.5');
    type('slope of the floor in the take, °', '0', '6');
    expect(changes).toEqual([
      { stride: 'marks' },
      { floor: 'zero' },
      { keepOut: false },
      { hands: 0.4 },
      { follow: { ...DEFAULT_CHOICES.follow, leftLeg: 0 } },
      { balance: 0.5 },
      { clavicles: 0.3 },
      { stretch: 0.08 },
    ]);
    expect(takes).toEqual([
      ['t1', { feetSpeed: 1.5, feetHeight: 1, handsSpeed: 1, floor: null, slope: null }],
      ['t1', { feetSpeed: 1, feetHeight: 1, handsSpeed: 1, floor: 0.125, slope: null }],
      ['t1', { feetSpeed: 1, feetHeight: 1, handsSpeed: 1, floor: null, slope: { degrees: 6, toward: 0 } }],
    ]);
    expect(host.querySelector('.scale')!.textContent).toContain(solved.stride.toFixed(3));
    expect(host.querySelector('.scale')!.textContent).toContain(solved.report.pairing.reason);
    const level = { x: 0, z: 0, low: 0 };
    const slope = { degrees: 6.84, toward: 40, theirs: level, mine: level };
    state.next({ ...state.value, solved: { ...solved, contacts: { ...solved.contacts, slope } } });
    await fixture.whenStable();
    expect(host.querySelector('.scale')!.textContent.replace(/\s+/g, ' ')).toContain('cm, rising 6.8° toward 40°');
    type('heading in which the floor rises, °: 0 is +Z, 90 is +X', '40', '90');
    expect(takes.at(-1)).toEqual(['t1', jasmine.objectContaining({ floor: null, slope: { degrees: 6.84, toward: 90 } })]);
    expect([...host.querySelectorAll('[role=group]')].map((group) => group.getAttribute('aria-label'))).toEqual([
      'stride',
      'floor',
      'Hands in the body',
      'Legs in each other',
    ]);
  });
});
