/** The frames of a take that the lanes show: from the first on, so many. */
export interface FramesWindow {
  readonly from: number;
  readonly count: number;
}

/** Fewer frames than this are not shown. */
const LEAST = 12;

/** All frames. */
export const wholeOf = (frames: number): FramesWindow => ({ from: 0, count: Math.max(1, frames) });

/** A window a factor closer, about a frame that stays in its place. */
export function zoomed({ from, count }: FramesWindow, frames: number, factor: number, about: number): FramesWindow {
  const next = Math.min(Math.max(count / factor, Math.min(LEAST, frames)), Math.max(1, frames));
  return held({ from: about - ((about - from) * next) / count, count: next }, frames);
}

/** A window moved by some frames. */
export function scrolled({ from, count }: FramesWindow, frames: number, by: number): FramesWindow {
  return held({ from: from + by, count }, frames);
}

/** The window, moved on where a frame that is played has left it. */
export function followed(window: FramesWindow, frames: number, frame: number): FramesWindow {
  const { from, count } = window;
  return frame >= from && frame < from + count ? window : held({ from: frame - count * 0.1, count }, frames);
}

function held({ from, count }: FramesWindow, frames: number): FramesWindow {
  return { from: Math.min(Math.max(0, from), Math.max(0, frames - count)), count };
}

/** Where a frame's left edge lies, in percent of the window's width. */
export const leftOf = ({ from, count }: FramesWindow, frame: number): number => (100 * (frame - from)) / count;
