import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { makePair } from '../../testing/pair';
import { PlaybackService } from '../../timeline/playback.service';
import { LanesComponent } from './lanes.component';

describe('LanesComponent', () => {
  const pair = makePair();
  const { solved } = pair;
  let fixture: ComponentFixture<LanesComponent>;
  let host: HTMLElement;
  let area: HTMLElement;
  let playback: PlaybackService;

  async function show(before = false) {
    pair.take.next({ ...pair.take.value, plants: [], touches: [] });
    pair.steps.length = 0;
    TestBed.configureTestingModule({ providers: pair.providers });
    playback = TestBed.inject(PlaybackService);
    playback.setClip(150, 1 / 60);
    fixture = TestBed.createComponent(LanesComponent);
    fixture.componentRef.setInput('solved', solved);
    fixture.componentRef.setInput('before', before);
    host = fixture.nativeElement as HTMLElement;
    document.body.style.width = '900px';
    await fixture.whenStable();
    area = host.querySelector<HTMLElement>('.area')!;
    area.setPointerCapture = () => undefined;
  }

  const lane = (name: string): HTMLElement => host.querySelector<HTMLElement>(`[data-lane="${name}"]`)!;
  const send = (target: Element, type: string, frame: number): void => {
    const box = area.getBoundingClientRect();
    target.dispatchEvent(
      new PointerEvent(type, { clientX: box.left + (box.width * (frame + 0.5)) / 150, pointerId: 1, bubbles: true, button: 0 }),
    );
  };
  const plant = solved.contacts.plants.find((p) => p.side === 'left' && p.part === 'heel')!;

  it('shows a bar for each plant, in its lane and place, with the foot’s height and speed behind', async () => {
    await show();
    expect(host.querySelectorAll('.bar').length).toBe(solved.contacts.plants.length + solved.touches.length);
    expect(parseFloat(lane('left heel').querySelector<HTMLElement>('.bar')!.style.left)).toBeCloseTo((100 * plant.first) / 150, 3);
    expect(host.querySelectorAll('polyline').length).toBe(4);
  });

  it('follows the pointer', async () => {
    await show();
    send(area, 'pointerdown', 75);
    expect(playback.state.frame).toBe(75);
    send(area, 'pointermove', 80);
    expect(playback.state.frame).toBe(80);
    send(area, 'pointerup', 80);
    send(area, 'pointermove', 90);
    expect(playback.state.frame).toBe(80);
  });

  it('drags an end of a bar', async () => {
    await show();
    const bar = lane('left heel').querySelector('.bar')!;
    send(bar.querySelector('[data-end=last]')!, 'pointerdown', plant.last);
    send(area, 'pointermove', plant.last + 6);
    await fixture.whenStable();
    expect(lane('left heel').querySelector('.draft')).not.toBeNull();
    send(area, 'pointerup', plant.last + 6);
    const edit = pair.take.value.plants.at(-1)!;
    expect([edit.kind, edit.side, edit.part]).toEqual(['add', 'left', 'heel']);
    expect(Math.round(edit.from * 60)).toBe(plant.first);
    expect(Math.round(edit.to * 60)).toBe(plant.last + 6);
  });

  it('paints a span over frames of any lane', async () => {
    await show();
    [...host.querySelectorAll('button')].find((b) => b.textContent?.includes('paint'))!.click();
    await fixture.whenStable();
    send(lane('hands'), 'pointerdown', 40);
    send(area, 'pointermove', 30);
    send(area, 'pointerup', 30);
    const [touch] = pair.take.value.touches;
    expect([touch.kind, touch.on, Math.round(touch.from * 60), Math.round(touch.to * 60)]).toEqual(['add', 'hand', 30, 40]);
  });

  it('holds a rest that is not held with one press', async () => {
    await show(true);
    const lost = host.querySelector<HTMLButtonElement>('.rest.lost')!;
    lost.click();
    expect(pair.take.value.plants.at(-1)!.kind).toBe('add');
    expect(pair.steps.length).toBe(1);
  });

  it('changes the chosen bar by numbers, and lets it go with Delete', async () => {
    await show();
    const bar = lane('left heel').querySelector<HTMLButtonElement>('.bar')!;
    bar.click();
    await fixture.whenStable();
    const from = host.querySelector<HTMLInputElement>('[aria-label="left heel, first frame"]')!;
    expect(from.value).toBe(String(plant.first + 1));
    from.value = String(plant.first + 4);
    from.dispatchEvent(new Event('change'));
    expect(pair.take.value.plants.at(-1)!.kind).toBe('remove');
    bar.dispatchEvent(new KeyboardEvent('keydown', { key: 'Delete', bubbles: true }));
    expect(pair.steps.at(-1)).toBe('remove the left heel');
  });

  it('zooms about the frame that is shown', async () => {
    await show();
    playback.seek(75);
    [...host.querySelectorAll('button')].find((b) => b.textContent?.includes('Fewer frames'))!.click();
    await fixture.whenStable();
    expect(parseFloat(host.querySelector<HTMLElement>('.head')!.style.left)).toBeCloseTo(50.5, 0);
    expect(host.querySelector('input[type=range]')).not.toBeNull();
  });
});
