import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { By } from '@angular/platform-browser';
import { provideRouter } from '@angular/router';
import type { ChangeSkeleton } from '@hollow-stride/contract';
import { DEFAULT_SKELETON } from '@hollow-stride/core';
import { BehaviorSubject, of } from 'rxjs';
import { BodiesStore, type BodyState } from '../body/bodies.store';
import { ProjectStore } from '../project/project.store';
import { FigureStageComponent } from '../stage/figure-stage.component';
import { FakeFigureStage, pressable, select } from '../testing/fake-stage';
import { makeRack } from '../testing/rack';
import { makeBodyView } from '../testing/views';
import { PlaybackService } from '../timeline/playback.service';
import { editsToProject } from '../testing/edits';
import { LabelComponent } from './label.component';

describe('LabelComponent', () => {
  const whole = makeBodyView();
  const name = (role: string): string => whole.display.skeleton.names[whole.roles[role]];
  let body: BehaviorSubject<BodyState>;
  let fixture: ComponentFixture<LabelComponent>;
  let host: HTMLElement;
  let stage: FakeFigureStage;

  beforeEach(async () => {
    localStorage.clear();
    body = new BehaviorSubject<BodyState>({ view: whole, fault: undefined });
    const rack = { ...makeRack(), takes: [{ id: 't', skeleton: 's' }] };
    const project = {
      rack$: of(rack),
      state: { rack, selection: { take: 't' } },
      skeleton: () => ({ id: 's', name: 'performer', choices: DEFAULT_SKELETON, rests: [] }),
      changeSkeleton: (_id: string, { choices }: ChangeSkeleton) => body.next({ view: makeBodyView(choices), fault: undefined }),
    };
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        ...editsToProject,
        { provide: ProjectStore, useValue: project },
        { provide: BodiesStore, useValue: { of: () => body } },
      ],
    });
    TestBed.overrideComponent(LabelComponent, { remove: { imports: [FigureStageComponent] }, add: { imports: [FakeFigureStage] } });
    fixture = TestBed.createComponent(LabelComponent);
    host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
    stage = fixture.debugElement.query(By.directive(FakeFigureStage)).componentInstance as FakeFigureStage;
  });

  const press = async (key: string): Promise<void> => {
    window.dispatchEvent(new KeyboardEvent('keydown', { key, cancelable: true }));
    await fixture.whenStable();
  };
  const click = async (what: string): Promise<void> => {
    pressable(host, what).click();
    await fixture.whenStable();
  };
  const role = (of: string): HTMLButtonElement =>
    [...host.querySelectorAll<HTMLButtonElement>('hs-roles-panel .role')].find((b) => b.querySelector('.of')!.textContent === of)!;

  it('is one selection: what is picked on the stage is chosen in the list and on the rail, with its partner', async () => {
    stage.picked.emit(whole.roles['left.hand']);
    await fixture.whenStable();
    expect(host.querySelector('hs-joint-tree .chosen')!.textContent).toContain(name('left.hand'));
    expect(host.querySelector('hs-rails .chosen')!.getAttribute('aria-label')).toContain('left.hand');
    expect(stage.marks()).toEqual([
      { joint: whole.roles['left.hand'], solid: true },
      { joint: whole.roles['right.hand'], solid: false },
    ]);
    expect(host.querySelector('aside')!.textContent).toContain(`Its partner on the other side: ${name('right.hand')}`);
    await press('m');
    expect(stage.marks().length).toBe(1);
  });

  it('takes a role first and then the joint, and lets go with Escape', async () => {
    role('left.hand').click();
    await fixture.whenStable();
    expect(host.querySelector('.hint')!.textContent).toContain('Click the joint of left.hand');
    await press('Escape');
    expect(host.querySelector('.hint')).toBeNull();
    role('left.hand').click();
    await fixture.whenStable();
    stage.picked.emit(whole.roles['left.lowerArm']);
    await fixture.whenStable();
    expect(role('left.hand').textContent).toContain(name('left.lowerArm'));
    expect(host.querySelector('.ready')!.textContent).toContain('Not ready');
  });

  it('gives the chosen joint a role from the list of all, or none', async () => {
    stage.picked.emit(whole.roles['left.toes']);
    await fixture.whenStable();
    select(host, '.joint select', '');
    await fixture.whenStable();
    expect(role('left.toes').textContent).toContain('optional');
    select(host, '.joint select', 'left.hock');
    await fixture.whenStable();
    expect(role('left.hock').textContent).toContain(name('left.toes'));
    expect(role('right.hock').textContent).toContain(name('right.toes'));
  });

  it('wiggles what is pointed at, and the chosen joint when it is told to', async () => {
    role('right.upperArm').dispatchEvent(new PointerEvent('pointerenter'));
    await fixture.whenStable();
    expect(stage.wiggled()).toBe(whole.roles['right.upperArm']);
    role('right.upperArm').dispatchEvent(new PointerEvent('pointerleave'));
    stage.picked.emit(whole.roles['head']);
    await fixture.whenStable();
    expect(stage.wiggled()).toBe(-1);
    await press('w');
    expect(stage.wiggled()).toBe(whole.roles['head']);
  });

  it('plays the range check by the labels, saying which limb should move', async () => {
    const playback = TestBed.inject(PlaybackService);
    await click('range check');
    expect([playback.state.playing, playback.state.frames]).toEqual([true, whole.range.clip.frames]);
    playback.pause();
    const knee = whole.range.steps.find(({ step }) => step.role === 'left.lowerLeg')!;
    playback.seek(knee.first + 3);
    await fixture.whenStable();
    expect(host.querySelector('.step')!.textContent).toBe('left knee');
    expect(stage.figures()[0].clip).toBe(whole.range.clip);
    await click('at rest');
    expect(stage.figures()[0].clip).toBeUndefined();
  });

  it('fills a chain of its own name', async () => {
    pressable(host, 'Whole chains').click();
    await fixture.whenStable();
    const field = host.querySelector<HTMLInputElement>('.fill input')!;
    field.value = 'tail';
    field.dispatchEvent(new Event('input'));
    await fixture.whenStable();
    host.querySelectorAll<HTMLButtonElement>('.fill button')[1].click();
    await fixture.whenStable();
    expect(host.querySelector('.hint')!.textContent).toContain('Click the first joint of the tail');
    stage.picked.emit(whole.roles['spine.2']);
    await fixture.whenStable();
    expect(host.querySelector('.hint')!.textContent).toContain(`Base ${name('spine.2')}`);
    stage.picked.emit(whole.roles['spine.3']);
    await fixture.whenStable();
    expect(host.querySelector('.extra')!.textContent).toContain('tail');
    expect(host.querySelector('aside [role=status]')!.textContent).toContain('was spine.2');
  });

  it('says why a skeleton cannot be shown, and what to do where there is none', async () => {
    body.next({ view: undefined, fault: { code: 'file/empty', message: 'it is empty', where: { file: 'a.bvh' } } });
    await fixture.whenStable();
    expect(host.querySelector('[role=alert]')!.textContent).toContain('a.bvh: it is empty');
    body.next({ view: undefined, fault: undefined });
    await fixture.whenStable();
    expect(host.textContent).toContain('Choose a take and a character');
  });
});
