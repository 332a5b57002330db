import type { CdkVirtualScrollViewport } from '@angular/cdk/scrolling';

/** Scrolls a list of lines of one height such that a line is seen whole; one that is seen already does not move it. */
export function bringIntoSight(viewport: CdkVirtualScrollViewport, line: number, height: number): void {
  viewport.checkViewportSize();
  const top = viewport.measureScrollOffset();
  const size = viewport.getViewportSize();
  if (line * height < top) viewport.scrollToOffset(line * height);
  else if ((line + 1) * height > top + size) viewport.scrollToOffset((line + 1) * height - size);
}
