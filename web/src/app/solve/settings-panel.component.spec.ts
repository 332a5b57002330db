import { TestBed } from '@angular/core/testing';
import { BehaviorSubject } from 'rxjs';
import { DEFAULT_CHOICES } from '../project/project.store';
import { makeSolved } from '../testing/solved';
import { KeptStore } from './kept.store';
import { SettingsPanelComponent } from './settings-panel.component';
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
      busy: false,
      fault: undefined,
    });
    const changes: object[] = [];
    TestBed.configureTestingModule({
      providers: [
        {
          provide: SolveStore,
          useValue: { state$: state },
        },
        { provide: KeptStore, useValue: { change: (c: object) => changes.push(c) } },
      ],
    });
    const fixture = TestBed.createComponent(SettingsPanelComponent);
    const host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
    const button = (name: string): HTMLButtonElement => [...host.querySelectorAll('button')].find((b) => b.textContent?.trim() === name)!;
    expect(button('by legs').getAttribute('aria-pressed')).toBe('true');
    button('keep marks').click();
    button('at zero').click();
    button('let be').click();
    const hold = host.querySelector<HTMLInputElement>('hs-number input')!;
    expect(hold.value).toBe('100');
    hold.value = '40';
    hold.dispatchEvent(new Event('change'));
    expect(changes).toEqual([{ stride: 'marks' }, { floor: 'zero' }, { keepOut: false }, { hands: 0.4 }]);
    expect(host.querySelector('.scale')!.textContent).toContain(solved.stride.toFixed(3));
    expect(host.querySelector('.scale')!.textContent).toContain(solved.report.pairing.reason);
    expect([...host.querySelectorAll('[role=group]')].map((group) => group.getAttribute('aria-label'))).toEqual([
      'stride',
      'floor',
      'clavicles',
      'head',
      'Hands in the body',
    ]);
  });
});
