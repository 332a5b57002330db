import { inject, Injectable } from '@angular/core';
import type { DeskState, DeskStream, RecordedJson, RecordRequest, RingSettings } from '@hollow-stride/contract';
import { readFrame, type Pose, type StreamFrame } from '@hollow-stride/core';
import { BehaviorSubject, finalize, type Observable, Subject, type Subscription } from 'rxjs';
import { NoticesService } from '../../notices/notices.service';
import { ProjectStore } from '../../project/project.store';
import { DeskService } from './desk.service';
import { HoldWatch, type Held } from './held';
import { LiveBody } from './live-body';
import { LiveStore } from './live/live.store';

export interface DeskView {
  /** Undefined until the line to the server is open. */
  readonly desk: DeskState | undefined;
  /** The stream that is looked at. */
  readonly stream: DeskStream | undefined;
  readonly body: LiveBody | undefined;
  /** Share of the pose that is being held; undefined where nobody asked for one. */
  readonly holding: number | undefined;
  readonly held: Held | undefined;
  /** Seconds until the recording begins. */
  readonly countdown: number | undefined;
  readonly last: RecordedJson | undefined;
  /** Frames a second that come in, and joints that are seen badly. */
  readonly rate: number;
  readonly doubtful: number;
}

/** A joint is seen badly below this quality. */
const DOUBTFUL = 128;
const COUNTDOWN = 3;

/** The capture desk as it is looked at: the stream that is shown, a pose that is held, the recording. */
@Injectable({ providedIn: 'root' })
export class DeskStore {
  private readonly service = inject(DeskService);
  private readonly notices = inject(NoticesService);
  private readonly project = inject(ProjectStore);
  private readonly live = inject(LiveStore);
  private readonly subject = new BehaviorSubject<DeskView>({
    desk: undefined,
    stream: undefined,
    body: undefined,
    holding: undefined,
    held: undefined,
    countdown: undefined,
    last: undefined,
    rate: 0,
    doubtful: 0,
  });
  readonly view$ = this.subject.asObservable();
  private readonly poses = new Subject<Pose>();
  /** The body as the latest frame has it. */
  readonly pose$ = this.poses.asObservable();
  private session: string | undefined;
  private watch: HoldWatch | undefined;
  private timer: ReturnType<typeof setInterval> | undefined;
  private times: number[] = [];

  get view(): DeskView {
    return this.subject.value;
  }

  /** Watches the desk for as long as somebody looks at it. */
  look(): Subscription {
    return this.service
      .watch()
      .pipe(
        finalize(() => {
          clearInterval(this.timer);
          this.live.clear();
        }),
      )
      .subscribe((told) => {
        if (told.kind === 'state') this.take(told.state);
        else if (told.kind === 'lost') this.patch({ desk: undefined, rate: 0 });
        else if (told.session === this.session) this.frame(told.bytes);
      });
  }

  choose(session: string): void {
    this.session = session;
    const { desk } = this.view;
    if (desk) this.take(desk);
  }

  connect(settings: RingSettings): void {
    this.session = undefined;
    this.act(this.service.connect(settings), (state) => this.take(state));
  }

  disconnect(): void {
    this.act(this.service.disconnect(), (state) => this.take(state));
  }

  /** Waits for a pose that is held, and learns floor and heading from it. */
  calibrate(): void {
    const by = this.view.body?.held;
    if (!by) return;
    this.watch = new HoldWatch(by);
    this.patch({ holding: 0, held: undefined });
  }

  forget(): void {
    this.watch = undefined;
    this.patch({ holding: undefined, held: undefined });
  }

  /** Counts down and records. */
  record(request: Omit<RecordRequest, 'session' | 'floor'>): void {
    const { stream } = this.view;
    if (!stream || this.view.countdown !== undefined) return;
    let left = COUNTDOWN;
    this.patch({ countdown: left, last: undefined });
    this.timer = setInterval(() => {
      if (--left > 0) {
        this.patch({ countdown: left });
        return;
      }
      clearInterval(this.timer);
      this.patch({ countdown: undefined });
      const { held } = this.view;
      const floor = held && { height: held.height, heading: held.heading };
      this.act(this.service.record({ ...request, session: stream.session, floor: floor ?? null }), (state) => this.take(state));
    }, 1000);
  }

  cancel(): void {
    clearInterval(this.timer);
    this.patch({ countdown: undefined });
  }

  stop(): void {
    this.act(this.service.stop(), (last) => {
      this.patch({ last });
      this.notices.done(`${last.name} is on the rack`);
      this.project.load();
    });
  }

  private take(desk: DeskState): void {
    const open = desk.streams.filter(({ isOpen }) => isOpen);
    const stream = desk.streams.find(({ session }) => session === this.session) ?? open.at(-1);
    const isOther = stream?.session !== this.view.stream?.session;
    if (isOther) this.live.setStream(stream?.opening);
    this.session = stream?.session;
    this.patch({ desk, stream, ...(isOther ? { body: stream && this.bodyOf(stream), holding: undefined, held: undefined, rate: 0 } : {}) });
  }

  private bodyOf({ opening }: DeskStream): LiveBody | undefined {
    try {
      return new LiveBody(opening);
    } catch (error) {
      this.notices.failed(error);
      return undefined;
    }
  }

  private frame(bytes: Uint8Array): void {
    const { body } = this.view;
    if (!body) return;
    let frame: StreamFrame;
    try {
      frame = readFrame(bytes, body.opening.joints.length);
    } catch {
      // The server lets no such frame through.
      return;
    }
    this.live.frame(frame.number, bytes);
    const pose = body.pose(frame);
    this.poses.next(pose);
    this.hold(pose, frame.seconds);
    const now = performance.now();
    this.times = [...this.times.filter((time) => now - time < 1000), now];
    const doubtful = frame.quality.reduce((sum, quality) => sum + (quality < DOUBTFUL ? 1 : 0), 0);
    if (frame.number % 30 === 0 || doubtful !== this.view.doubtful) this.patch({ rate: this.times.length, doubtful });
  }

  private hold(pose: Pose, seconds: number): void {
    const { watch } = this;
    if (!watch) return;
    const held = watch.take(pose, seconds);
    if (!held) {
      const share = Math.floor(watch.share(seconds) * 20) / 20;
      if (share !== this.view.holding) this.patch({ holding: share });
      return;
    }
    this.watch = undefined;
    this.patch({ holding: undefined, held });
    this.notices.done('the pose was held: floor and heading are known');
  }

  private act<T>(request: Observable<T>, done: (answer: T) => void): void {
    request.subscribe({ next: done, error: (error: unknown) => this.notices.failed(error) });
  }

  private patch(change: Partial<DeskView>): void {
    this.subject.next({ ...this.view, ...change });
  }
}
