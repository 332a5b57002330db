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
import { BehaviorSubject, catchError, combineLatest, debounceTime, distinctUntilChanged, EMPTY, forkJoin, map, switchMap, tap } from 'rxjs';
import { NoticesService } from '../notices/notices.service';
import { EditsStore } from '../project/edits.store';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import type { PairRequest, Progress, ReelPlayed, ReelRequest } from '../solver/messages';
import { faultOf } from '../solver/worker-client';
import { PlaybackService } from '../timeline/playback.service';
import { ReelService } from './reel.service';

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

const REMEMBERED = 'hollow-stride.reel';
/** Clips that are joined go over into each other over twice so long; a cycle is left within so long before its end, seconds. */
const HALF = 0.25;
const LEAVES = 0.5;
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

  /** Cuts the chosen clip to the best cycle of its take, closed. */
  findCycle(): void {
    const [own, pair] = [this.clip, this.pairOfChosen()];
    if (!own || !pair) return;
    this.service.find({ kind: 'cycle', pair }).subscribe({
      next: ({ cycle }) => {
        if (!cycle) this.notices.caution(`no cycle was found in ${own.name}: it never comes back to a pose at the same speed`);
        else {
          const { from, to, seam } = cycle;
          this.changeClip({ from: rounded(from), to: rounded(to), closed: true, repeats: Math.max(4, own.repeats) });
          this.notices.done(`a cycle of ${(to - from).toFixed(2)} s; its ends are ${(seam * 1000).toFixed(0)} mm apart and are closed`);
        }
      },
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
  }

  /** Mixes the chosen clip's cycle with that of another take, by their speeds; a third one joins a mix of two. */
  mixWith(take: TakeJson): void {
    const [own, pair] = [this.clip, this.pairOfChosen()];
    const lane = this.lane;
    const character = this.project.state.rack.characters.find(({ id }) => id === lane?.character);
    if (!own || !pair || !character || (own.mix?.cycles.length ?? 0) >= 3) return;
    const other = this.project.pairRequest(take, character, this.project.choicesFor(take, character));
    const found = [...(own.mix ? [] : [{ take: own.take, pair }]), { take: take.id, pair: other }];
    forkJoin(found.map((one) => this.service.find({ kind: 'cycle', pair: one.pair }))).subscribe({
      next: (answers) => {
        const cycles: ReelMix['cycles'] = [...(own.mix?.cycles ?? [])];
        answers.forEach(({ cycle }, i) => {
          // A body that stands has no cycle: its first two seconds serve as one.
          const piece = cycle ?? { from: 0, to: 2, speed: 0 };
          let value = Math.round(piece.speed * 100) / 100;
          while (cycles.some((one) => one.value === value)) value = Math.round((value + 0.01) * 100) / 100;
          cycles.push({ take: found[i].take, from: rounded(piece.from), to: rounded(piece.to), value });
        });
        const values = cycles.map(({ value }) => value);
        const keys = own.mix?.keys ?? [{ at: 0, value: Math.round(50 * (Math.min(...values) + Math.max(...values))) / 100 }];
        this.changeClip({ mix: { cycles, keys, seconds: own.mix?.seconds ?? 8 } });
      },
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
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

  /** Moves the chosen clip to where the one before it on its lane goes over into it best. */
  joinBest(): void {
    const { lane, clip } = this.state.chosen;
    const [own, content] = [this.clip, this.content];
    if (!own || !content) return;
    const order = content.lanes[lane].clips.map((one, i) => ({ one, i })).sort((a, b) => a.one.start - b.one.start || a.i - b.i);
    const before = order[order.findIndex(({ i }) => i === clip) - 1] as (typeof order)[number] | undefined;
    const [a, b] = [before && this.pair(before.one.take, content.lanes[lane].character), this.pairOfChosen()];
    if (!before || !a || !b) return;
    const { one } = before;
    // A cycle is left near its end, and stays what it is; a plain piece is cut where it is left.
    const isCycle = one.closed || one.repeats > 1;
    const from = isCycle && one.to !== null ? Math.max(one.from ?? 0, one.to - LEAVES) : one.from;
    this.service.find({ kind: 'joining', a: { pair: a, from, to: one.to }, b: { pair: b, from: own.from, to: own.to } }).subscribe({
      next: ({ joining }) => {
        if (!joining) return;
        const passes = isCycle && one.to !== null ? (one.repeats - 1) * (one.to - (one.from ?? 0)) : 0;
        const leave = one.start + (passes + joining.leave - (one.from ?? 0)) / one.rate;
        const clips = content.lanes[lane].clips.map((each, at) => {
          if (at === before.i) return isCycle ? each : { ...each, to: rounded(joining.leave + HALF * each.rate), hold: 0 };
          if (at !== clip) return each;
          return {
            ...each,
            from: rounded(Math.max(0, joining.enter - HALF * each.rate)),
            start: rounded(Math.max(0, leave - HALF)),
            joined: true,
          };
        });
        this.setClips(lane, clips, `join ${own.name} where it fits best`);
        this.notices.done(`joined where poses are ${(joining.apart * 1000).toFixed(0)} mm apart`);
      },
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
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

  private pairOfChosen(): PairRequest | undefined {
    const { lane } = this.state.chosen;
    const [own, content] = [this.clip, this.content];
    return own && content ? this.pair(own.take, content.lanes[lane].character) : undefined;
  }

  private pair(take: string, character: string): PairRequest | undefined {
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

  private setClips(at: number, clips: readonly ReelClip[], text: string, key?: string): void {
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

/** Seconds to the millisecond: what people type and read. */
const rounded = (seconds: number): number => Math.round(seconds * 1000) / 1000;
