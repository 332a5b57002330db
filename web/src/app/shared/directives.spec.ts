import { ChangeDetectionStrategy, Component, signal } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { InSightDirective } from './in-sight.directive';
import { ResizeDirective } from './resize.directive';
import { RovingDirective } from './roving.directive';

@Component({
  selector: 'hs-grid-of-buttons',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RovingDirective],
  template: `
    <div hsRoving="button" style="display: grid; grid-template-columns: 60px 60px 60px; width: 180px">
      @for (item of items(); track item) {
        <button type="button" style="height: 20px" [attr.aria-pressed]="item === pressed()">{{ item }}</button>
      }
    </div>
  `,
})
class GridOfButtons {
  readonly items = signal(['a', 'b', 'c', 'd', 'e', 'f', 'g']);
  readonly pressed = signal('');
}

@Component({
  selector: 'hs-panelled',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ResizeDirective],
  template: `
    <div style="display: flex; width: 900px">
      <main style="flex: 1"></main>
      <aside [hsResize]="'trial'" [least]="200" [most]="400" style="flex: none; width: var(--hs-trial-width, 300px)"></aside>
    </div>
  `,
})
class Panelled {}

@Component({
  selector: 'hs-long-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [InSightDirective],
  template: `
    <div style="height: 60px; overflow: auto">
      @for (item of items(); track item) {
        <p style="height: 20px; margin: 0" [hsInSight]="item === chosen()">{{ item }}</p>
      }
    </div>
  `,
})
class LongList {
  readonly items = signal(Array.from({ length: 30 }, (_, i) => i));
  readonly chosen = signal(0);
}

describe('a list that shows what is chosen', () => {
  it('scrolls to it, also when it has just come, and stays where it is seen', async () => {
    const fixture = TestBed.createComponent(LongList);
    const host = fixture.nativeElement as HTMLElement;
    document.body.append(host);
    const list = host.querySelector('div')!;
    const shows = async (item: number): Promise<number> => {
      fixture.componentInstance.chosen.set(item);
      await fixture.whenStable();
      return list.scrollTop;
    };
    expect(await shows(1)).toBe(0);
    expect(await shows(20)).toBe(21 * 20 - 60);
    expect(await shows(19)).toBe(21 * 20 - 60);
    fixture.componentInstance.items.update((items) => [...items, 30]);
    expect(await shows(30)).toBe(31 * 20 - 60);
    expect(await shows(2)).toBe(40);
    fixture.destroy();
  });
});

const settled = async (fixture: ComponentFixture<unknown>): Promise<void> => {
  await fixture.whenStable();
  // The observer of the directive tells of changes after them.
  await Promise.resolve();
};

describe('a roving group', () => {
  let fixture: ComponentFixture<GridOfButtons>;
  let host: HTMLElement;
  beforeEach(async () => {
    fixture = TestBed.createComponent(GridOfButtons);
    host = fixture.nativeElement as HTMLElement;
    document.body.append(host);
    await settled(fixture);
  });
  afterEach(() => fixture.destroy());

  const buttons = (): HTMLElement[] => [...host.querySelectorAll('button')];
  const stops = (): string[] =>
    buttons()
      .filter(({ tabIndex }) => tabIndex === 0)
      .map(({ textContent }) => textContent ?? '');
  const press = (key: string, more: KeyboardEventInit = {}): string => {
    document.activeElement!.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }));
    return document.activeElement!.textContent ?? '';
  };

  it('is one tab stop: what is pressed, else the first', async () => {
    expect(stops()).toEqual(['a']);
    fixture.componentInstance.pressed.set('d');
    fixture.componentInstance.items.update((items) => [...items, 'h']);
    await settled(fixture);
    expect(stops()).toEqual(['d']);
  });

  it('goes by arrow keys as the items lie, and stays at the edges', () => {
    buttons()[0].focus();
    expect(['ArrowRight', 'ArrowDown', 'ArrowLeft', 'ArrowLeft', 'ArrowDown', 'ArrowDown', 'ArrowUp'].map((key) => press(key))).toEqual([
      'b',
      'e',
      'd',
      'd',
      'g',
      'g',
      'd',
    ]);
    expect(stops()).toEqual(['d']);
    // With Alt the keys are the item's own.
    expect(press('ArrowRight', { altKey: true })).toBe('d');
  });

  it('keeps the focus in its place when the item with it is taken away', async () => {
    buttons()[4].focus();
    fixture.componentInstance.items.update((items) => items.filter((item) => item !== 'e'));
    await settled(fixture);
    expect(document.activeElement!.textContent).toBe('f');
    fixture.componentInstance.items.set(['a']);
    await settled(fixture);
    expect(document.activeElement!.textContent).toBe('a');
    expect(stops()).toEqual(['a']);
  });
});

describe('a panel whose width is set', () => {
  const STORED = 'hollow-stride.width.trial';
  let fixture: ComponentFixture<Panelled>;
  beforeEach(() => localStorage.removeItem(STORED));
  afterEach(() => {
    fixture.destroy();
    document.documentElement.style.removeProperty('--hs-trial-width');
  });

  async function show(): Promise<{ panel: HTMLElement; edge: HTMLElement; key: (key: string) => void }> {
    fixture = TestBed.createComponent(Panelled);
    const host = fixture.nativeElement as HTMLElement;
    document.body.append(host);
    await settled(fixture);
    const edge = host.querySelector<HTMLElement>('.hs-edge')!;
    const key = (name: string): void =>
      void edge.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true, cancelable: true }));
    return { panel: host.querySelector('aside')!, edge, key };
  }

  it('is moved by arrow keys between its bounds, and remembered', async () => {
    const { panel, edge, key } = await show();
    expect([edge.getAttribute('role'), edge.getAttribute('aria-label'), edge.nextElementSibling]).toEqual([
      'separator',
      'Width of the trial',
      panel,
    ]);
    expect(panel.offsetWidth).toBe(300);
    key('ArrowLeft');
    expect(panel.offsetWidth).toBe(316);
    for (let i = 0; i < 20; i++) key('ArrowRight');
    expect(panel.offsetWidth).toBe(200);
    for (let i = 0; i < 30; i++) key('ArrowLeft');
    expect([panel.offsetWidth, localStorage.getItem(STORED)]).toEqual([400, '400']);
    fixture.destroy();
    document.documentElement.style.removeProperty('--hs-trial-width');
    expect((await show()).panel.offsetWidth).toBe(400);
  });

  it('is dragged by its edge, and has its usual width again after a double click', async () => {
    const { panel, edge } = await show();
    spyOn(edge, 'setPointerCapture');
    edge.dispatchEvent(new PointerEvent('pointerdown', { clientX: 500, pointerId: 1 }));
    edge.dispatchEvent(new PointerEvent('pointermove', { clientX: 460, pointerId: 1 }));
    edge.dispatchEvent(new PointerEvent('pointerup', { clientX: 460, pointerId: 1 }));
    edge.dispatchEvent(new PointerEvent('pointermove', { clientX: 300, pointerId: 1 }));
    expect([panel.offsetWidth, localStorage.getItem(STORED)]).toEqual([340, '340']);
    edge.dispatchEvent(new MouseEvent('dblclick'));
    expect([panel.offsetWidth, localStorage.getItem(STORED)]).toEqual([300, null]);
  });
});
