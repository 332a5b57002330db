import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { CharacterJson, ReelJson, TakeJson } from '@hollow-stride/contract';
import {
  makeLane,
  makeReelClip,
  makeReelTouch,
  takesOfClip,
  type LayerPose,
  type ReelTouch,
  type ReelMix,
  type ReelClip,
  type ReelContent,
  type ReelLane,
} from '@hollow-stride/core';
import { BehaviorSubject, catchError, combineLatest, debounceTime, distinctUntilChanged, EMPTY, map, switchMap, tap } from 'rxjs';
import { NoticesService } from '../notices/notices.service';
import { EditsStore } from '../project/edits.store';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import type { PairRequest, Progress, ReelPlayed, ReelRequest } from '../solver/messages';
import { faultOf } from '../solver/worker-client';
import { PlaybackService } from '../timeline/playback.service';
import { ReelService } from './reel.service';
import { rounded } from './seconds';

/** A clip by lane and place in its list. */
export interface At {
  readonly lane: number;
  readonly clip: number;
}

export interface ReelState {
  readonly reel: ReelJson | undefined;
  readonly chosen: At;
  /** The last that was played; it stays while the next is on its way. */
  readonly played: ReelPlayed | undefined;
  readonly busy: boolean;
  readonly progress: Progress | undefined;
}

/** Takes that play on a reel, with repeats. */
const takesOf = (reel: ReelJson | undefined): readonly string[] =>
  reel?.content.lanes.flatMap((lane) => lane.clips.flatMap(takesOfClip)) ?? [];

const REMEMBERED = 'hollow-stride.reel';
const NONE: At = { lane: -1, clip: -1 };
/** A bar that is dragged asks for many reels: it is played when it has stood still for so long, ms. */
const SETTLED = 150;

/** The reel that is looked at: every change is a step, and it is played anew after each. */
@Injectable({ providedIn: 'root' })
export class ReelStore {
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);
  private readonly items = inject(ItemsStore);
  private readonly service = inject(ReelService);
  private readonly notices = inject(NoticesService);
  private readonly playback = inject(PlaybackService);
  private readonly id = new BehaviorSubject<string | undefined>(localStorage.getItem(REMEMBERED) ?? undefined);
  private readonly subject = new BehaviorSubject<ReelState>({
    reel: undefined,
    chosen: NONE,
    played: undefined,
    busy: false,
    progress: undefined,
  });
  readonly state$ = this.subject.asObservable();

  constructor() {
    combineLatest([this.id, this.project.state$])
      .pipe(
        map(([id, { rack, loaded }]) => (loaded ? (rack.reels.find((one) => one.id === id) ?? rack.reels.at(0)) : undefined)),
        tap((reel) => this.patch({ reel, ...(reel?.id === this.state.reel?.id ? {} : { played: undefined, chosen: NONE }) })),
        // Its takes may stand far down the rack's list.
        switchMap((reel) => this.project.bring(takesOf(reel)).pipe(map(() => reel))),
        map((reel) => reel && this.request(reel.content)),
        distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
        tap((request) => this.patch({ busy: request !== undefined })),
        debounceTime(SETTLED),
        switchMap((request) => {
          if (!request) return EMPTY;
          return this.service
            .play(request, (progress) => this.patch({ progress }))
            .pipe(
              tap((played) => this.patch({ played, busy: false, progress: undefined })),
              catchError((error: unknown) => {
                this.patch({ busy: false, progress: undefined });
                this.notices.fault(faultOf(error));
                return EMPTY;
              }),
            );
        }),
        takeUntilDestroyed(),
      )
      .subscribe();
  }

  get state(): ReelState {
    return this.subject.value;
  }

  open(id: string): void {
    localStorage.setItem(REMEMBERED, id);
    this.id.next(id);
  }

  add(name: string): void {
    this.items.addReel({ name, content: { fps: 60, lanes: [], touches: [] } }, (id) => this.open(id));
  }

  rename(name: string): void {
    const { reel } = this.state;
    if (reel && name.trim() !== '') this.edits.changeReel(reel.id, { name: name.trim() }, `name the reel ${name.trim()}`);
  }

  choose(chosen: At): void {
    this.patch({ chosen });
  }

  get clip(): ReelClip | undefined {
    const { lane, clip } = this.state.chosen;
    return this.content?.lanes[lane]?.clips[clip];
  }

  get lane(): ReelLane | undefined {
    return this.content?.lanes[this.state.chosen.lane];
  }

  addLane(character: CharacterJson): void {
    const lanes = this.content?.lanes ?? [];
    const same = lanes.filter((lane) => lane.character === character.id).length;
    const name = same === 0 ? character.name : `${character.name} ${same + 1}`;
    this.put([...lanes, makeLane({ name: name.slice(0, 80), character: character.id, clips: [] })], `add a lane for ${character.name}`);
    this.choose({ lane: lanes.length, clip: -1 });
  }

  removeLane(at: number): void {
    const lanes = this.content?.lanes ?? [];
    const { reel } = this.state;
    if (!reel) return;
    // Touches name lanes by their place: those of this one go, those behind it move up.
    const behind = (lane: number): number => (lane > at ? lane - 1 : lane);
    const touches = reel.content.touches
      .filter(({ a, b }) => a.lane !== at && b.lane !== at)
      .map((touch) => ({ ...touch, a: { ...touch.a, lane: behind(touch.a.lane) }, b: { ...touch.b, lane: behind(touch.b.lane) } }));
    const content = { ...reel.content, lanes: lanes.filter((_, i) => i !== at), touches };
    this.edits.changeReel(reel.id, { content }, `remove the lane ${lanes[at].name}`);
    this.choose(NONE);
  }

  changeLane(at: number, change: Partial<ReelLane>, key?: string): void {
    const lanes = this.content?.lanes ?? [];
    const text = `${Object.keys(change).join(', ')} of the lane ${lanes[at].name}`;
    this.put(
      lanes.map((lane, i) => (i === at ? { ...lane, ...change } : lane)),
      text,
      key && `lane ${at} ${key}`,
    );
  }

  /** Of all lanes of its character this one plays, and no other: results are switched at a press. */
  playAlone(at: number): void {
    const lanes = this.content?.lanes ?? [];
    const { character, name } = lanes[at];
    this.put(
      lanes.map((lane, i) => (lane.character === character ? { ...lane, on: i === at } : lane)),
      `play the lane ${name} alone`,
    );
  }

  /** The same lane for another character, so much later: a crowd that does not move as one. */
  repeatLane(at: number, character: CharacterJson): void {
    const lanes = this.content?.lanes ?? [];
    const lane = lanes[at];
    const others = lanes.filter((one) => one.clips.length > 0).length;
    const place: [number, number] = [lane.place[0] + 1.2 * others, lane.place[1]];
    const copy = { ...lane, name: `${character.name} ${lanes.length + 1}`.slice(0, 80), character: character.id, place };
    this.put(
      [...lanes, { ...copy, shift: lane.shift + 0.35 * others, pace: others % 2 === 1 ? 0.96 : 1.04 }],
      `repeat the lane for ${character.name}`,
    );
  }

  /** Puts a take behind what is on a lane, gone over into it within half a second. */
  addClip(at: number, take: TakeJson): void {
    const lane = this.content?.lanes[at];
    if (!lane) return;
    const end = this.endOf(at);
    const start = lane.clips.length === 0 ? 0 : Math.max(0, end - 0.5);
    this.setClips(
      at,
      [...lane.clips, makeReelClip({ name: take.name.slice(0, 80), take: take.id, start: rounded(start) })],
      `put ${take.name} on the lane`,
    );
    this.choose({ lane: at, clip: lane.clips.length });
  }

  /** Puts a pose behind what is on a lane, held for a second. */
  addPose(at: number, name: string, pose: LayerPose): void {
    const lane = this.content?.lanes[at];
    // The pairing of a take gives the figure its rest.
    const take = lane?.clips.at(0)?.take ?? this.project.state.selection.take;
    if (!lane || !take) return;
    const start = lane.clips.length === 0 ? 0 : Math.max(0, this.endOf(at) - 0.4);
    this.setClips(
      at,
      [...lane.clips, makeReelClip({ name: name.slice(0, 80), take, start: rounded(start), pose, hold: 1.4 })],
      `hold the pose ${name}`,
    );
    this.choose({ lane: at, clip: lane.clips.length });
  }

  /** Lets two figures touch for a second from the moment that is shown. */
  addTouch(touch: Pick<ReelTouch, 'a' | 'b'>): void {
    const { frame, frameTime } = this.playback.state;
    const from = rounded(frame * frameTime);
    this.setTouches([...(this.content?.touches ?? []), makeReelTouch({ ...touch, from, to: rounded(from + 1) })], 'let two figures touch');
  }

  changeTouch(at: number, change: Partial<ReelTouch>, key?: string): void {
    const next = (this.content?.touches ?? []).map((touch, i) => (i === at ? { ...touch, ...change } : touch));
    if (next[at].from <= next[at].to) this.setTouches(next, 'time of a touch', key && `touch ${at} ${key}`);
  }

  removeTouch(at: number): void {
    this.setTouches(
      (this.content?.touches ?? []).filter((_, i) => i !== at),
      'remove a touch',
    );
  }

  changeClip(change: Partial<ReelClip>, key?: string): void {
    const { lane, clip } = this.state.chosen;
    const clips = this.content?.lanes[lane]?.clips ?? [];
    if (!clips[clip]) return;
    this.setClips(
      lane,
      clips.map((one, i) => (i === clip ? { ...one, ...change } : one)),
      `${Object.keys(change).join(', ')} of the clip ${clips[clip].name}`,
      key && `clip ${lane} ${clip} ${key}`,
    );
  }

  removeClip(): void {
    const { lane, clip } = this.state.chosen;
    const clips = this.content?.lanes[lane]?.clips ?? [];
    if (!clips[clip]) return;
    this.setClips(
      lane,
      clips.filter((_, i) => i !== clip),
      `remove the clip ${clips[clip].name}`,
    );
    this.choose({ lane, clip: -1 });
  }

  /** Parts the chosen clip at the moment that is shown. */
  split(): void {
    const { lane, clip } = this.state.chosen;
    const own = this.clip;
    const placed = this.placed(lane, clip);
    if (!own || !placed || own.repeats > 1 || own.reverse) return;
    const { frame, frameTime } = this.playback.state;
    if (frame <= placed.first || frame >= placed.last) return;
    const pace = this.content?.lanes[lane].pace ?? 1;
    const at = rounded((own.from ?? 0) + (frame - placed.first) * frameTime * own.rate * pace);
    const clips = this.content?.lanes[lane].clips ?? [];
    const second = { ...own, from: at, start: rounded(own.start + (frame - placed.first) * frameTime * pace) };
    this.setClips(
      lane,
      [...clips.slice(0, clip), { ...own, to: at, hold: 0 }, second, ...clips.slice(clip + 1)],
      `part the clip ${own.name}`,
    );
    this.choose({ lane, clip: clip + 1 });
  }

  /** Sets the value of the mix at the moment that is shown. */
  setValue(value: number): void {
    const { mix } = this.clip ?? {};
    if (!mix) return;
    const at = this.secondOfMix();
    const near = mix.keys.find((key) => Math.abs(key.at - at) < 0.02);
    const keys =
      mix.keys.length === 1 && !near
        ? [...mix.keys, { at, value }]
        : near
          ? mix.keys.map((key) => (key === near ? { ...key, value } : key))
          : [...mix.keys, { at, value }];
    this.changeClip({ mix: { ...mix, keys: [...keys].sort((a, b) => a.at - b.at) } }, 'value');
  }

  changeMix(change: Partial<ReelMix>, key?: string): void {
    const { mix } = this.clip ?? {};
    if (mix) this.changeClip({ mix: { ...mix, ...change } }, key && `mix ${key}`);
  }

  /** Second of the chosen clip that is shown. */
  secondOfMix(): number {
    const { lane, clip } = this.state.chosen;
    const placed = this.placed(lane, clip);
    const { frame, frameTime } = this.playback.state;
    const pace = this.lane?.pace ?? 1;
    const length = this.clip?.mix?.seconds ?? 0;
    return rounded(Math.max(0, Math.min(length, (frame - (placed?.first ?? 0)) * frameTime * pace)));
  }

  /** Where a clip lies, as it was played last. */
  placed(lane: number, clip: number): { first: number; last: number; overlap: number; seam: number } | undefined {
    const played = this.state.played?.lanes[lane];
    return played && 'placed' in played ? played.placed.find(({ index }) => index === clip) : undefined;
  }

  request(content: ReelContent): ReelRequest {
    const { takes, characters } = this.project.state.rack;
    const pairs: Record<string, PairRequest> = {};
    for (const lane of content.lanes) {
      const character = characters.find(({ id }) => id === lane.character);
      for (const id of lane.clips.flatMap(takesOfClip)) {
        const take = takes.find((one) => one.id === id);
        if (take && character)
          pairs[`${id} ${lane.character}`] = this.project.pairRequest(take, character, this.project.choicesFor(take, character));
      }
    }
    return { content, pairs };
  }

  get content(): ReelContent | undefined {
    return this.state.reel?.content;
  }

  /** What is decided about a take on a character that plays on the reel. */
  pair(take: string, character: string): PairRequest | undefined {
    return this.content && (this.request(this.content).pairs[`${take} ${character}`] as PairRequest | undefined);
  }

  /** Second at which a lane ends. */
  private endOf(lane: number): number {
    const { played, reel } = this.state;
    const own = played?.lanes[lane];
    const takes = this.project.state.rack.takes;
    // Before it was played the lengths of its takes tell.
    const last = Math.max(
      0,
      ...(reel?.content.lanes[lane].clips ?? []).map((clip) => {
        const take = takes.find(({ id }) => id === clip.take);
        const seconds = (clip.to ?? take?.facts.clips[take.clip].seconds ?? 0) - (clip.from ?? 0);
        return clip.start + (Math.max(0, seconds) * clip.repeats) / clip.rate + clip.hold;
      }),
    );
    return own && 'clip' in own && own.placed.length === reel?.content.lanes[lane].clips.length
      ? (own.clip.frames - 1) * own.clip.frameTime
      : last;
  }

  /** Puts other clips on a lane, as one step. */
  setClips(at: number, clips: readonly ReelClip[], text: string, key?: string): void {
    this.put(
      (this.content?.lanes ?? []).map((lane, i) => (i === at ? { ...lane, clips: [...clips] } : lane)),
      text,
      key,
    );
  }

  private put(lanes: readonly ReelLane[], text: string, key?: string): void {
    const { reel } = this.state;
    if (reel) this.edits.changeReel(reel.id, { content: { ...reel.content, lanes: [...lanes] } }, text, key);
  }

  private setTouches(touches: readonly ReelTouch[], text: string, key?: string): void {
    const { reel } = this.state;
    if (reel) this.edits.changeReel(reel.id, { content: { ...reel.content, touches: [...touches] } }, text, key);
  }

  private patch(change: Partial<ReelState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}
