import { inject, Injectable } from '@angular/core';
import { PlaybackService } from '../timeline/playback.service';
import { SolveStore } from './solve.store';

/** Moments nearer to each other than this, seconds, are one: a frame's own second is a rounded one. */
export const SAME_MOMENT = 0.004;

/** How the frames of the pair that is looked at lie in the take's own time, in which edits are kept. */
@Injectable({ providedIn: 'root' })
export class TakeTimeService {
  private readonly solve = inject(SolveStore);
  private readonly playback = inject(PlaybackService);

  /** The take's own second of the frame that is shown. */
  get now(): number {
    return this.secondsAt(this.playback.state.frame);
  }

  /** The frame that lies at a second of the take's own time, with its fraction. */
  frameAt(seconds: number): number {
    const { solved } = this.solve.state;
    return solved ? ((seconds - solved.time.start) * solved.time.pace) / solved.take.frameTime : 0;
  }

  secondsAt(frame: number): number {
    const { solved } = this.solve.state;
    return solved ? Math.max(0, solved.time.start + (frame * solved.take.frameTime) / solved.time.pace) : 0;
  }
}
