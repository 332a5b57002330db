import { afterNextRender, DestroyRef, Directive, ElementRef, inject, input } from '@angular/core';

const STORED = 'hollow-stride.width.';
/** An arrow key moves the edge by so many pixels. */
const STEP = 16;

/** A panel whose inner edge is dragged, or moved by arrow keys; its width is remembered under a name. */
@Directive({ selector: '[hsResize]' })
export class ResizeDirective {
  /** Name under which the width is remembered, and by which the style sheet knows it: --hs-<name>-width. */
  readonly name = input.required<string>({ alias: 'hsResize' });
  readonly edge = input<'left' | 'right'>('left');
  readonly least = input(220);
  readonly most = input(640);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;

  constructor() {
    const destroyed = inject(DestroyRef);
    afterNextRender(() => {
      const stored = Number(localStorage.getItem(STORED + this.name()));
      if (stored > 0) this.set(stored);
      const handle = this.makeHandle();
      // Beside the panel, not within it: a panel that scrolls would take it along.
      if (this.edge() === 'left') this.host.before(handle);
      else this.host.after(handle);
      destroyed.onDestroy(() => handle.remove());
    });
  }

  private makeHandle(): HTMLElement {
    const handle = document.createElement('div');
    handle.className = 'hs-edge';
    handle.tabIndex = 0;
    handle.setAttribute('role', 'separator');
    handle.setAttribute('aria-orientation', 'vertical');
    handle.setAttribute('aria-label', `Width of the ${this.name()}`);
    const sign = this.edge() === 'left' ? -1 : 1;
    handle.addEventListener('pointerdown', (event) => {
      const [from, width] = [event.clientX, this.host.offsetWidth];
      handle.setPointerCapture(event.pointerId);
      handle.onpointermove = ({ clientX }) => this.set(width + sign * (clientX - from));
      handle.onpointerup = () => {
        handle.onpointermove = handle.onpointerup = null;
        this.keep();
      };
      event.preventDefault();
    });
    handle.addEventListener('keydown', (event) => {
      const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (way === undefined) return;
      this.set(this.host.offsetWidth + sign * way * STEP);
      this.keep();
      event.preventDefault();
      event.stopPropagation();
    });
    handle.addEventListener('dblclick', () => {
      document.documentElement.style.removeProperty(this.property);
      localStorage.removeItem(STORED + this.name());
    });
    return handle;
  }

  private get property(): string {
    return `--hs-${this.name()}-width`;
  }

  private set(width: number): void {
    document.documentElement.style.setProperty(this.property, `${Math.round(Math.max(this.least(), Math.min(this.most(), width)))}px`);
  }

  private keep(): void {
    localStorage.setItem(STORED + this.name(), String(this.host.offsetWidth));
  }
}
