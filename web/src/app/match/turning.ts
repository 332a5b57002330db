/** Degrees that an arrow key turns by, counter-clockwise as drawn, ten with Shift; 0 for other keys. */
export function arrowDegrees({ key, shiftKey }: KeyboardEvent): number {
  const way = key === 'ArrowLeft' || key === 'ArrowUp' ? 1 : key === 'ArrowRight' || key === 'ArrowDown' ? -1 : 0;
  return way * (shiftKey ? 10 : 1);
}

/** Smaller turns of the pointer are not told, degrees. */
const STILL = 0.4;

/** A pointer that turns something about a point: tells by how much since it last told. */
export class TurnDrag {
  private last: number | undefined;

  /** @param angle degrees of the pointer about the point */
  start(event: PointerEvent, angle: number): void {
    (event.target as Element).setPointerCapture(event.pointerId);
    this.last = angle;
  }

  /** Degrees turned since, the short way round; 0 while nothing is dragged. */
  by(angle: number): number {
    if (this.last === undefined) return 0;
    const by = angle - this.last - 360 * Math.round((angle - this.last) / 360);
    if (Math.abs(by) < STILL) return 0;
    this.last = angle;
    return by;
  }

  end(event: PointerEvent): void {
    this.last = undefined;
    (event.target as Element).releasePointerCapture(event.pointerId);
  }
}
