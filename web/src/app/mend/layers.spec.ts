import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { Layer, LayerKey } from '@hollow-stride/core';
import { makePair } from '../testing/pair';
import { PlaybackService } from '../timeline/playback.service';
import { CurvesComponent } from './curves.component';
import { LayerHandlesComponent } from './layer-handles.component';
import { LayerLanesComponent } from './layer-lanes.component';
import { LayerPanelComponent } from './layer-panel.component';
import { LayersPanelComponent } from './layers-panel.component';
import { LayerKeysStore } from './layer-keys.store';
import { LayersStore } from './layers.store';

describe('layers of a pair', () => {
  const pair = makePair();
  let store: LayersStore;
  let tracks: LayerKeysStore;
  let playback: PlaybackService;
  const list = (): Layer[] => pair.choices.value.layers.map(({ layer }) => layer);
  const keys = (index = 0, track = 0): readonly LayerKey[] => tracks.tracksOf(index)[track].keys;

  beforeEach(() => {
    pair.choices.next({ ...pair.choices.value, layers: [] });
    pair.steps.length = 0;
    TestBed.configureTestingModule({ providers: pair.providers });
    store = TestBed.inject(LayersStore);
    tracks = TestBed.inject(LayerKeysStore);
    playback = TestBed.inject(PlaybackService);
    playback.setClip(150, 1 / 60);
    playback.seek(60);
  });

  it('are added on top, of this take, under names of their own, and worked on', () => {
    store.add('calm');
    store.add('calm');
    store.add('bridge');
    expect(list().map(({ name }) => name)).toEqual(['calm', 'calm 2', 'gap closed']);
    expect(list()[2].mask).toEqual({ from: 0.8, to: 1.2, fade: 0 });
    expect(store.current?.index).toBe(2);
    expect(store.entries.every(({ isOfTake }) => isOfTake)).toBeTrue();
    store.move(2, -1);
    expect(list().map(({ name }) => name)).toEqual(['calm', 'gap closed', 'calm 2']);
    store.copy(store.entries[1]);
    expect(list().map(({ name }) => name)).toEqual(['calm', 'gap closed', 'gap closed 2', 'calm 2']);
    store.remove(store.entries[0]);
    expect(list().length).toBe(3);
    expect(pair.steps.at(-1)).toBe('take off the layer calm');
  });

  it('take a share of each part of the body', async () => {
    store.add('calm');
    const panel: ComponentFixture<LayerPanelComponent> = TestBed.createComponent(LayerPanelComponent);
    await panel.whenStable();
    const host = panel.nativeElement as HTMLElement;
    const share = host.querySelector<HTMLInputElement>('[aria-label="share of left arm, %"]')!;
    expect(share.value).toBe('100');
    share.value = '40';
    share.dispatchEvent(new Event('change'));
    expect(list()[0].does).toEqual(jasmine.objectContaining({ parts: [], shares: { 'left.arm': 0.4 } }));
    expect(pair.steps.at(-1)).toBe('share of left arm, calm');
  });

  it('hold limb ends that they do not move themselves', async () => {
    store.add('reach');
    tracks.addTrack(0, 'left.hand');
    tracks.setValue(0, 0, [1, 2, 3]);
    const panel: ComponentFixture<LayerPanelComponent> = TestBed.createComponent(LayerPanelComponent);
    await panel.whenStable();
    const boxes = (panel.nativeElement as HTMLElement).querySelectorAll<HTMLInputElement>('[aria-label="Held where they are"] input');
    expect([...boxes].map(({ disabled }) => disabled)).toEqual([true, false, false, false]);
    boxes[1].click();
    await panel.whenStable();
    boxes[3].click();
    await panel.whenStable();
    expect(list()[0].held).toEqual(['right.hand', 'right.foot']);
    boxes[1].click();
    expect(list()[0].held).toEqual(['right.foot']);
    expect(pair.steps.at(-1)).toBe('held, reach');
  });

  it('key at the frame that is shown; keys move, are copied, pasted and mirrored', () => {
    store.add('reach');
    tracks.addTrack(0, 'left.hand');
    tracks.setValue(0, 0, [1, 2, 3]);
    expect(keys()).toEqual([{ at: 1, value: [1, 2, 3], tangent: 'smooth', slope: null }]);
    playback.seek(90);
    tracks.setValue(0, 0, [3, 2, 1]);
    playback.seek(75);
    expect(tracks.value(0, 0)[0]).toBeCloseTo(2, 1);
    tracks.moveKey(0, 0, 1.5, 2);
    expect(keys().map(({ at }) => at)).toEqual([1, 2]);
    tracks.copied.set(keys());
    playback.seek(150);
    tracks.pasteKeys(0, 0);
    expect(keys().map(({ at }) => at.toFixed(2))).toEqual(['1.00', '2.00', '2.48', '3.48']);
    tracks.mirrorTrack(0, 0);
    expect(tracks.tracksOf(0)[1]).toEqual(jasmine.objectContaining({ end: 'right.hand' }));
    expect(keys(0, 1)[0].value).toEqual([-1, 2, 3]);
    playback.seek(60);
    tracks.toggleKey(0, 0);
    expect(keys().length).toBe(3);
  });

  it('take up the pose where they stand in place of the motion', () => {
    store.add('reach');
    store.does(0, { way: 'replace' }, 'in its place');
    tracks.addTrack(0, 'left.hand');
    const joint = pair.solved.roles.get('left.hand')! * 3;
    tracks.toggleKey(0, 0);
    const { value } = keys()[0];
    const pose = store.pose()!;
    const { left, forward } = pair.solved.axes;
    for (let c = 0; c < 3; c++) {
      const place = (value[0] * left[c] + (c === 1 ? value[1] : 0) + value[2] * forward[c]) / 100;
      expect(place).toBeCloseTo(pose.positions[joint + c], 3);
    }
    tracks.setFrame(0, 0, 'chest');
    expect(tracks.tracksOf(0)[0]).toEqual(jasmine.objectContaining({ frame: 'chest' }));
    expect(keys()[0].value).not.toEqual(value);
  });

  it('lay a pose on where it is asked for: kept here it leaves this frame as it is', () => {
    const pose = store.poseHere()!;
    expect(Object.keys(pose)).toContain('left.upperArm');
    expect(Object.keys(pose)).not.toContain('hips');
    store.layPose('salute', { 'right.upperArm': pose['right.upperArm'], 'left.tail': [1, 2, 3] });
    expect(list()[0]).toEqual(jasmine.objectContaining({ name: 'salute', mask: { from: 1, to: 1, fade: 0.5 } }));
    expect(tracks.tracksOf(0)).toEqual([
      { role: 'right.upperArm', keys: [{ at: 1, value: pose['right.upperArm'], tangent: 'smooth', slope: null }] },
    ]);
    store.layPose('rest', undefined);
    expect(tracks.tracksOf(1).length).toBe(Object.keys(pose).length);
  });

  it('open at the worst frame of a figure, with what it is about', () => {
    const [figure] = pair.solved.report.verdict.figures;
    store.lead({ ...figure, id: 'knees', name: 'knees', words: 'left knee', frame: 30 });
    expect(playback.state.frame).toBe(30);
    expect(list()[0]).toEqual(
      jasmine.objectContaining({ name: 'knees at 0.5 s', does: { kind: 'calm', parts: ['way', 'left.leg'], seconds: 0.08 } }),
    );
  });

  it('are listed, muted, alone, moved and removed by the keyboard', async () => {
    const fixture = TestBed.createComponent(LayersPanelComponent);
    const host = fixture.nativeElement as HTMLElement;
    store.add('calm');
    store.add('mirror');
    await fixture.whenStable();
    const names = (): string[] => [...host.querySelectorAll('button.name')].map((button) => button.textContent!.trim());
    expect(names()).toEqual(['mirror', 'calm']);
    host.querySelector<HTMLInputElement>('input[type=checkbox]')!.click();
    host.querySelectorAll<HTMLButtonElement>('.alone')[1].click();
    expect(list().map(({ on, alone }) => [on, alone])).toEqual([
      [true, true],
      [false, false],
    ]);
    await fixture.whenStable();
    host.querySelector('button.name')!.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', altKey: true, bubbles: true }));
    await fixture.whenStable();
    expect(names()).toEqual(['calm', 'mirror']);
    host.querySelector('button.name')!.dispatchEvent(new KeyboardEvent('keydown', { key: 'Delete', bubbles: true }));
    expect(list().map(({ name }) => name)).toEqual(['mirror']);
  });

  it('are set on their panel', async () => {
    const fixture = TestBed.createComponent(LayerPanelComponent);
    const host = fixture.nativeElement as HTMLElement;
    store.add('turns');
    await fixture.whenStable();
    const pick = host.querySelector<HTMLSelectElement>('select[aria-label="Key a joint"]')!;
    pick.value = 'head';
    pick.dispatchEvent(new Event('change'));
    await fixture.whenStable();
    const type = async (label: string, value: string): Promise<void> => {
      const input = host.querySelector<HTMLInputElement>(`input[aria-label="${label}"]`)!;
      input.value = value;
      input.dispatchEvent(new Event('change'));
      await fixture.whenStable();
    };
    await type('head around, °', '25');
    await type('strength, %', '60');
    expect(keys()[0].value).toEqual([0, 25, 0]);
    expect(list()[0].strength).toBe(0.6);
    const press = async (name: string): Promise<void> => {
      [...host.querySelectorAll('button')].find((button) => button.textContent?.trim() === name)!.click();
      await fixture.whenStable();
    };
    await press('step');
    expect(keys()[0].tangent).toBe('step');
    [...host.querySelectorAll('label')]
      .find((label) => label.textContent?.includes('only for a time'))!
      .querySelector('input')!
      .click();
    expect(list()[0].mask).toEqual({ from: 1, to: 2, fade: 0.25 });
    await press('all takes');
    expect(pair.choices.value.layers[0].take).toBeNull();
    store.add('calm');
    await fixture.whenStable();
    [...host.querySelectorAll('label')]
      .find((label) => label.textContent?.includes('left arm'))!
      .querySelector('input')!
      .click();
    const { does } = list()[1];
    expect('parts' in does && does.parts).toEqual(['way', 'trunk', 'head', 'right.arm', 'left.leg', 'right.leg']);
  });

  it('are moved in time on their lanes, and their keys with Alt', async () => {
    store.add('reach');
    store.change(0, { mask: { from: 0.5, to: 1, fade: 0.1 } }, 'time');
    tracks.addTrack(0, 'left.hand');
    tracks.setValue(0, 0, [1, 0, 0]);
    const fixture = TestBed.createComponent(LayerLanesComponent);
    fixture.componentRef.setInput('frames', 150);
    const host = fixture.nativeElement as HTMLElement;
    host.style.cssText = 'display:block;width:740px';
    await fixture.whenStable();
    const area = host.querySelector<HTMLElement>('.area')!;
    area.setPointerCapture = () => undefined;
    const { left, width } = area.getBoundingClientRect();
    const point = (target: Element, type: string, frame: number): void =>
      void target.dispatchEvent(new PointerEvent(type, { clientX: left + ((frame + 0.5) / 150) * width, bubbles: true, button: 0 }));
    point(host.querySelector('.time .end[data-end=to]')!, 'pointerdown', 60);
    point(area, 'pointermove', 90);
    point(area, 'pointerup', 90);
    expect(list()[0].mask!.to).toBeCloseTo(1.5, 2);
    point(host.querySelector('.time')!, 'pointerdown', 60);
    point(area, 'pointermove', 72);
    point(area, 'pointerup', 72);
    expect([list()[0].mask!.from, list()[0].mask!.to]).toEqual([jasmine.any(Number), jasmine.any(Number)]);
    expect(list()[0].mask!.from).toBeCloseTo(0.7, 2);
    await fixture.whenStable();
    host.querySelector('.key')!.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', altKey: true, bubbles: true }));
    expect(keys()[0].at).toBeCloseTo(61 / 60, 4);
    await fixture.whenStable();
    host.querySelector('.key')!.dispatchEvent(new KeyboardEvent('keydown', { key: 'Delete', bubbles: true }));
    expect(keys().length).toBe(0);
  });

  it('are drawn as curves, whose keys are typed', async () => {
    store.add('turns');
    tracks.addTrack(0, 'head');
    tracks.setValue(0, 0, [10, 0, 0]);
    playback.seek(90);
    tracks.setValue(0, 0, [30, 0, 0]);
    const fixture = TestBed.createComponent(CurvesComponent);
    const host = fixture.nativeElement as HTMLElement;
    const show = async (): Promise<void> => {
      fixture.componentRef.setInput('solved', pair.solved);
      fixture.componentRef.setInput('entry', store.current);
      await fixture.whenStable();
    };
    await show();
    host.querySelector('canvas')!.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowLeft' }));
    await show();
    const input = host.querySelector<HTMLInputElement>('input[aria-label="forward, slope, °/s"]')!;
    input.value = '40';
    input.dispatchEvent(new Event('change'));
    expect(keys().map(({ slope }) => slope?.[0])).toContain(40);
    await show();
    [...host.querySelectorAll('button')].find((button) => button.textContent?.trim() === 'larger')!.click();
    expect(keys().map(({ value }) => value[0])).toEqual([11, 33]);
  });

  it('take up the motion that is shown as few keys, and say how far they are off', async () => {
    store.add('reach');
    tracks.addTrack(0, 'left.foot');
    const fixture = TestBed.createComponent(CurvesComponent);
    const host = fixture.nativeElement as HTMLElement;
    fixture.componentRef.setInput('solved', pair.solved);
    fixture.componentRef.setInput('entry', store.current);
    await fixture.whenStable();
    [...host.querySelectorAll('button')].find((button) => button.textContent?.trim() === 'thin')!.click();
    await fixture.whenStable();
    expect(keys().length).toBeGreaterThan(3);
    expect(keys().length).toBeLessThan(pair.solved.solved.frames / 3);
    expect(host.textContent).toMatch(/\d+ keys, [0-4]\.\d mm off at most/);
    const { does } = list()[0];
    expect('way' in does && does.way).toBe('replace');
  });

  describe('by handles', () => {
    let fixture: ComponentFixture<LayerHandlesComponent>;
    let host: HTMLElement;
    const show = async (): Promise<void> => {
      fixture = TestBed.createComponent(LayerHandlesComponent);
      fixture.componentRef.setInput('solved', pair.solved);
      fixture.componentRef.setInput('entry', store.current);
      host = fixture.nativeElement as HTMLElement;
      await fixture.whenStable();
      // Seen along −Z, a pixel is 2 mm.
      const { joints, place } = fixture.componentInstance;
      place(new Float64Array(joints().length * 2).fill(100), {
        right: [1, 0, 0],
        up: [0, 1, 0],
        metres: new Float64Array(joints().length).fill(0.002),
      });
      for (const button of host.querySelectorAll('button')) button.setPointerCapture = button.releasePointerCapture = () => undefined;
    };
    const knob = (name: string): HTMLButtonElement => host.querySelector<HTMLButtonElement>(`button[aria-label^="${name},"]`)!;

    it('take a limb end along with the pointer', async () => {
      store.add('reach');
      await show();
      const point = (type: string, x: number, y: number): void =>
        void knob('left.hand').dispatchEvent(new PointerEvent(type, { clientX: x, clientY: y, button: 0, bubbles: true }));
      point('pointerdown', 0, 0);
      point('pointermove', 25, -50);
      point('pointerup', 25, -50);
      const { value } = keys()[0];
      const { left, forward } = pair.solved.axes;
      [0.05, 0.1, 0].forEach((way, c) => {
        expect((value[0] * left[c] + (c === 1 ? value[1] : 0) + value[2] * forward[c]) / 100).toBeCloseTo(way, 3);
      });
    });

    it('are as large and of the shape that is set', async () => {
      store.add('reach');
      await show();
      const look = (): (string | null)[] => [
        knob('left.hand').style.getPropertyValue('--size'),
        knob('left.hand').getAttribute('data-shape'),
      ];
      expect(look()).toEqual(['14px', 'filled']);
      fixture.componentRef.setInput('size', 22);
      fixture.componentRef.setInput('shape', 'open');
      await fixture.whenStable();
      expect(look()).toEqual(['22px', 'open']);
      expect(getComputedStyle(knob('left.hand')).backgroundColor).toBe('rgba(0, 0, 0, 0)');
    });

    it('turn a joint by the arrow keys', async () => {
      store.add('turns');
      await show();
      knob('head').dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true }));
      expect(Math.hypot(...keys()[0].value)).toBeCloseTo((5 * 0.007 * 180) / Math.PI, 1);
    });
  });
});
