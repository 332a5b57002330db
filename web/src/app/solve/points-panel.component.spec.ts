import { TestBed } from '@angular/core/testing';
import { DEFAULT_SKELETON, type SkeletonChoices } from '@hollow-stride/core';
import { BehaviorSubject, of } from 'rxjs';
import { PairStore } from '../pair/pair.store';
import { ProjectStore } from '../project/project.store';
import { pressable, select } from '../testing/fake-stage';
import { editsToProject } from '../testing/edits';
import { PointsPanelComponent } from './points-panel.component';

describe('PointsPanelComponent', () => {
  async function open() {
    const rack = new BehaviorSubject({
      skeletons: ['k1', 'k2'].map((id) => ({ id, choices: DEFAULT_SKELETON as SkeletonChoices })),
    });
    const steps: string[] = [];
    TestBed.configureTestingModule({
      providers: [
        { provide: PairStore, useValue: { pair$: of({ take: { skeleton: 'k1' }, character: { skeleton: 'k2' } }) } },
        ...editsToProject,
        {
          provide: ProjectStore,
          useValue: {
            rack$: rack,
            changeSkeleton: (id: string, { choices }: { choices: SkeletonChoices }, text: string) => {
              steps.push(`${id} ${text}`);
              rack.next({ skeletons: rack.value.skeletons.map((one) => (one.id === id ? { id, choices } : one)) });
            },
          },
        },
      ],
    });
    const fixture = TestBed.createComponent(PointsPanelComponent);
    const shown: boolean[] = [];
    fixture.componentInstance.show.subscribe((on) => shown.push(on));
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const type = async (name: string, value: string): Promise<void> => {
      const field = host.querySelector<HTMLInputElement>(`input[aria-label="${name}"]`)!;
      field.value = value;
      field.dispatchEvent(new Event('change'));
      await fixture.whenStable();
    };
    return { fixture, host, rack, steps, shown, type };
  }
  const pointsOf = ({ value }: { value: { skeletons: { choices: SkeletonChoices }[] } }, i: number) => value.skeletons[i].choices.points;

  it('moves a point of the character and its like on the other side, and shows the points', async () => {
    const { rack, steps, shown, type, host } = await open();
    await type('left heel moved to its left, cm', '1.5');
    await type('left heel moved up, cm', '-2');
    expect(pointsOf(rack, 1)).toEqual({ 'left.heel': [0.015, -0.02, 0], 'right.heel': [-0.015, -0.02, 0] });
    expect(pointsOf(rack, 0)).toBeUndefined();
    expect(steps[0]).toBe('k2 move the left heel');
    expect(shown[0]).toBeTrue();
    expect(host.querySelector('option')!.textContent).toContain('left heel (moved)');
  });

  it('moves one side alone, the performer’s, and points of the middle', async () => {
    const { rack, type, host, fixture } = await open();
    pressable(host, 'performer').click();
    host.querySelector<HTMLInputElement>('input[type=checkbox]')!.click();
    select(host, 'select', 'right.palm');
    await fixture.whenStable();
    await type('right palm moved ahead, cm', '3');
    select(host, 'select', 'seat');
    await fixture.whenStable();
    expect(host.querySelector('input[type=checkbox]')).toBeNull();
    await type('seat moved up, cm', '-4');
    expect(pointsOf(rack, 0)).toEqual({ 'right.palm': [0, 0, 0.03], seat: [0, -0.04, 0] });
  });
});
