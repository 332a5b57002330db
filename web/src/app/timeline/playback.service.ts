import { Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';

export interface PlaybackState {
  readonly frames: number;
  readonly frameTime: number;
  readonly frame: number;
  readonly playing: boolean;
  readonly speed: number;
  readonly loop: boolean;
}

export const SPEEDS = [0.1, 0.25, 0.5, 1, 2] as const;

/** The transport: which frame is shown, and the clock that moves it while it plays. */
@Injectable({ providedIn: 'root' })
export class PlaybackService {
  private readonly subject = new BehaviorSubject<PlaybackState>({
    frames: 0,
    frameTime: 1 / 30,
    frame: 0,
    playing: false,
    speed: 1,
    loop: true,
  });
  readonly state$ = this.subject.asObservable();
  private last = 0;
  /** Place in frames, with its fraction. */
  private place = 0;
  private request = 0;
  /** The frame that the next clip is opened at. */
  private wanted: number | undefined;

  get state(): PlaybackState {
    return this.subject.value;
  }

  /** Opens the next clip at a frame. */
  openAt(frame: number): void {
    this.pause();
    if (this.state.frames > 0) this.seek(frame);
    this.wanted = frame;
  }

  /** Sets the length; keeps the time where that is possible. */
  setClip(frames: number, frameTime: number): void {
    if (this.wanted !== undefined) {
      this.place = Math.max(0, Math.min(frames - 1, this.wanted));
      this.wanted = undefined;
      this.patch({ frames, frameTime, frame: this.place });
      return;
    }
    const time = this.state.frame * this.state.frameTime;
    this.place = Math.min(Math.max(0, frames - 1), Math.round(time / frameTime));
    this.patch({ frames, frameTime, frame: Math.floor(this.place) });
  }

  toggle(): void {
    if (this.state.playing) this.pause();
    else this.play();
  }

  play(): void {
    const { frames, frame, loop } = this.state;
    if (frames < 2 || this.state.playing) return;
    this.wanted = undefined;
    if (!loop && frame >= frames - 1) this.seek(0);
    this.patch({ playing: true });
    this.last = performance.now();
    this.request = requestAnimationFrame(this.tick);
  }

  pause(): void {
    cancelAnimationFrame(this.request);
    if (this.state.playing) this.patch({ playing: false });
  }

  seek(frame: number): void {
    // A person goes elsewhere: nothing is opened at a frame that was asked for before.
    this.wanted = undefined;
    const held = Math.max(0, Math.min(this.state.frames - 1, Math.round(frame)));
    this.place = held;
    if (held !== this.state.frame) this.patch({ frame: held });
  }

  step(by: number): void {
    this.pause();
    this.seek(this.state.frame + by);
  }

  setSpeed(speed: number): void {
    this.patch({ speed });
  }

  setLoop(loop: boolean): void {
    this.patch({ loop });
  }

  private readonly tick = (now: number): void => {
    const { frames, frameTime, speed, loop } = this.state;
    // The first picture may be stamped with a moment before the press that asked for it.
    const elapsed = Math.max(0, now - this.last);
    this.place += (elapsed / 1000 / frameTime) * speed;
    this.last += elapsed;
    if (this.place >= frames) {
      if (loop) this.place %= frames;
      else {
        this.place = frames - 1;
        this.patch({ frame: frames - 1, playing: false });
        return;
      }
    }
    const frame = Math.floor(this.place);
    if (frame !== this.state.frame) this.patch({ frame });
    this.request = requestAnimationFrame(this.tick);
  };

  private patch(change: Partial<PlaybackState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}
