import { DestroyRef, inject, Injectable } from '@angular/core';
import { combineLatest, distinctUntilChanged, firstValueFrom, map } from 'rxjs';
import { ApiService } from '../api/api.service';
import { SolveStore } from '../solve/solve.store';
import { TakeTimeService } from '../solve/take-time.service';
import { PlaybackService } from '../timeline/playback.service';
import { FaceStore } from './face.store';

/** Sound and picture may be apart by this much before the sound is taken up anew, seconds: less is not heard. */
const APART = 0.06;

/** Plays a take's sound with its picture, on the stations that play the take. */
@Injectable({ providedIn: 'root' })
export class SoundService {
  private readonly face = inject(FaceStore);
  private readonly solve = inject(SolveStore);
  private readonly playback = inject(PlaybackService);
  private readonly time = inject(TakeTimeService);
  private readonly api = inject(ApiService);
  private context: AudioContext | undefined;
  /** The sound that was decoded last, by its content. */
  private decoded: { readonly file: string; readonly buffer: Promise<AudioBuffer> } | undefined;
  private source: AudioBufferSourceNode | undefined;
  /** When the source was started, on the clock of the sound, and from which second of it. */
  private begun = { at: 0, from: 0, speed: 1 };
  private stations = 0;

  constructor() {
    combineLatest([
      this.playback.state$,
      this.face.state$.pipe(distinctUntilChanged((a, b) => a.sound === b.sound && a.soundOffset === b.soundOffset)),
    ])
      .pipe(map(([{ playing, frame, speed }]) => ({ playing, frame, speed })))
      .subscribe(({ playing, speed }) => {
        if (playing && this.stations > 0) this.follow(speed);
        else this.stop();
      });
  }

  /** Plays along while the caller is on screen. To be called while a component is made. */
  playHere(): void {
    this.stations++;
    inject(DestroyRef).onDestroy(() => {
      this.stations--;
      if (this.stations === 0) this.stop();
    });
  }

  /** Starts the sound where the picture is, and again when it has run away or the picture has jumped. */
  private follow(speed: number): void {
    const { sound, soundOffset } = this.face.state;
    if (!sound || !this.solve.state.solved) {
      this.stop();
      return;
    }
    const wanted = this.time.now - soundOffset;
    const context = (this.context ??= new AudioContext());
    const { at, from, speed: before } = this.begun;
    const is = from + (context.currentTime - at) * before;
    if (this.source && before === speed && Math.abs(is - wanted) < APART * Math.max(1, speed)) return;
    this.stop();
    void this.start(context, sound.file, wanted, speed);
  }

  private async start(context: AudioContext, file: string, wanted: number, speed: number): Promise<void> {
    if (this.decoded?.file !== file) {
      const buffer = firstValueFrom(this.api.file(file)).then((bytes) => context.decodeAudioData(bytes.slice(0)));
      this.decoded = { file, buffer };
    }
    const buffer = await this.decoded.buffer.catch(() => undefined);
    // Meanwhile the picture may have stopped, or another start have come first.
    if (!buffer || !this.playback.state.playing || this.source || wanted >= buffer.duration) return;
    await context.resume().catch(() => undefined);
    const source = context.createBufferSource();
    source.buffer = buffer;
    source.playbackRate.value = speed;
    source.connect(context.destination);
    const delay = Math.max(0, -wanted) / speed;
    source.start(context.currentTime + delay, Math.max(0, wanted));
    this.source = source;
    this.begun = { at: context.currentTime, from: wanted, speed };
  }

  private stop(): void {
    this.source?.stop();
    this.source?.disconnect();
    this.source = undefined;
  }
}
