import { afterNextRender, DestroyRef, Directive, ElementRef, inject, input } from '@angular/core';

const WAYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
/** Distance across the arrow's direction counts this much more than distance along it. */
const ASIDE = 3;

/**
 * Makes a group one tab stop: arrow keys go from item to item, the way that they lie on the screen. When the item with the focus is
 * taken away, the one in its place has it.
 */
@Directive({ selector: '[hsRoving]' })
export class RovingDirective {
  /** Selector of the items. */
  readonly items = input.required<string>({ alias: 'hsRoving' });
  private readonly host = inject<ElementRef<HTMLElement | SVGElement>>(ElementRef).nativeElement;
  /** Place of the item that has the focus, −1 for none. */
  private at = -1;

  constructor() {
    const destroyed = inject(DestroyRef);
    afterNextRender(() => {
      const observer = new MutationObserver(() => this.tidy());
      observer.observe(this.host, { childList: true, subtree: true });
      this.host.addEventListener('keydown', this.key as EventListener);
      this.host.addEventListener('focusin', this.tidy);
      this.host.addEventListener('focusout', this.left as EventListener);
      destroyed.onDestroy(() => observer.disconnect());
      this.tidy();
    });
  }

  private list(): HTMLElement[] {
    return [...this.host.querySelectorAll<HTMLElement>(this.items())];
  }

  private readonly tidy = (): void => {
    const list = this.list();
    const focused = list.indexOf(document.activeElement as HTMLElement);
    if (focused < 0 && this.at >= 0 && document.activeElement === document.body && list.length > 0) {
      list[Math.min(this.at, list.length - 1)].focus();
      return;
    }
    if (focused >= 0) this.at = focused;
    const pressed = list.findIndex((item) => item.getAttribute('aria-pressed') === 'true');
    const stop = focused >= 0 ? focused : pressed >= 0 ? pressed : 0;
    list.forEach((item, i) => item.setAttribute('tabindex', i === stop ? '0' : '-1'));
  };

  private readonly left = ({ relatedTarget }: FocusEvent): void => {
    // Focus that goes elsewhere is gone; an item that was taken away leaves it to nothing.
    if (relatedTarget !== null && !this.host.contains(relatedTarget as Node)) this.at = -1;
  };

  private readonly key = (event: KeyboardEvent): void => {
    const way = WAYS[event.key];
    const list = this.list();
    const from = list.indexOf(event.target as HTMLElement);
    if (!way || from < 0 || event.altKey || event.ctrlKey || event.metaKey || event.shiftKey) return;
    const middle = (item: Element): readonly [number, number] => {
      const { left, top, width, height } = item.getBoundingClientRect();
      return [left + width / 2, top + height / 2];
    };
    const [x, y] = middle(list[from]);
    let best: HTMLElement | undefined;
    let least = Infinity;
    for (const item of list) {
      const [ox, oy] = middle(item);
      const along = (ox - x) * way[0] + (oy - y) * way[1];
      const aside = Math.abs((ox - x) * way[1]) + Math.abs((oy - y) * way[0]);
      if (along < 2 || along + ASIDE * aside >= least) continue;
      [best, least] = [item, along + ASIDE * aside];
    }
    if (!best) return;
    event.preventDefault();
    event.stopPropagation();
    best.focus();
    best.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  };
}
