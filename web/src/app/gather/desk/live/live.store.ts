import { inject, Injectable } from '@angular/core';
import type { CharacterJson, TakeJson } from '@hollow-stride/contract';
import { DEFAULT_SKELETON, type Opening, type Pose } from '@hollow-stride/core';
import { BehaviorSubject, Subject, type Subscription } from 'rxjs';
import { DEFAULT_CHOICES, ProjectStore } from '../../../project/project.store';
import type { DisplayBody } from '../../../solver/messages';
import { Delays, type Spread } from './delays';
import { LiveService } from './live.service';
import type { LiveTold } from './messages';

/** Characters at once. */
export const MOST_LIVE = 3;

/** A character that a stream is transferred onto as it comes. */
export interface LiveCharacter {
  readonly id: string;
  readonly name: string;
  /** Share of what has to be seen of the performer before it begins, 0 to 1. */
  readonly learned: number;
  readonly display: DisplayBody | undefined;
  /** Milliseconds from when a frame came to when it was there on the character, and of work. */
  readonly delay: Spread;
  readonly work: Spread;
  /** Frames that were lost and not bridged. */
  readonly lost: number;
  /** What keeps it from being transferred. */
  readonly fault: string | undefined;
}

interface Line {
  readonly subscription: Subscription;
  readonly delays: Delays;
  /** The performer is known: frames go through one by one. */
  isLive: boolean;
}

/** Figures are told so often at most, ms. */
const TOLD = 250;

/** Live transfers of the stream that is looked at. */
@Injectable({ providedIn: 'root' })
export class LiveStore {
  private readonly service = inject(LiveService);
  private readonly project = inject(ProjectStore);
  private readonly subject = new BehaviorSubject<readonly LiveCharacter[]>([]);
  readonly characters$ = this.subject.asObservable();
  /** Latest pose of each character, by its id. */
  readonly poses = new Map<string, Pose>();
  private readonly frames = new Subject<Uint8Array>();
  private readonly lines = new Map<string, Line>();
  private opening: Opening | undefined;
  private like: TakeJson | undefined;
  private told = 0;

  get characters(): readonly LiveCharacter[] {
    return this.subject.value;
  }

  /** Another stream is looked at: what is transferred begins anew with it. */
  setStream(opening: Opening | undefined): void {
    this.opening = opening;
    this.beginAll();
  }

  /** Labels, pairings and settings are those of a take on the rack; undefined for what is found by itself. */
  setLike(take: TakeJson | undefined): void {
    this.like = take;
    this.beginAll();
  }

  add(character: CharacterJson): void {
    if (this.characters.length >= MOST_LIVE || this.characters.some(({ id }) => id === character.id)) return;
    this.begin(character);
  }

  remove(id: string): void {
    this.end(id);
    this.subject.next(this.characters.filter((one) => one.id !== id));
  }

  clear(): void {
    for (const { id } of this.characters) this.end(id);
    this.subject.next([]);
  }

  /** Takes a frame of the stream in, by its number. */
  frame(number: number, bytes: Uint8Array): void {
    if (this.lines.size === 0) return;
    const now = performance.now();
    for (const { delays, isLive } of this.lines.values()) if (isLive) delays.came(number, now);
    this.frames.next(bytes);
  }

  private beginAll(): void {
    const ids = this.characters.map(({ id }) => id);
    const { characters } = this.project.state.rack;
    this.clear();
    for (const id of ids) {
      const character = characters.find((one) => one.id === id);
      if (character) this.begin(character);
    }
  }

  private begin(character: CharacterJson): void {
    const { id, name } = character;
    const { opening, like, project } = this;
    const none = { half: 0, most: 0 };
    const empty: LiveCharacter = { id, name, learned: 0, display: undefined, delay: none, work: none, lost: 0, fault: undefined };
    this.subject.next([...this.characters, empty]);
    if (!opening) return;
    const request = {
      opening,
      character: project.characterSource(character),
      choices: like ? project.choicesFor(like, character) : DEFAULT_CHOICES,
      performer: like ? project.decided(like) : DEFAULT_SKELETON,
    };
    const line: Line = {
      delays: new Delays(),
      isLive: false,
      subscription: this.service.transfer(request, this.frames).subscribe((told) => this.take(id, line, told)),
    };
    this.lines.set(id, line);
  }

  private take(id: string, line: Line, told: LiveTold): void {
    if (told.kind === 'learning') this.patch(id, { learned: told.share });
    else if (told.kind === 'begun') {
      line.isLive = true;
      this.patch(id, { learned: 1, display: told.display });
    } else if (told.kind === 'failed') {
      this.end(id);
      this.patch(id, { fault: told.fault.message });
    } else {
      const now = performance.now();
      line.delays.went(told.numbers, told.work, now);
      this.poses.set(id, { positions: told.positions, rotations: told.rotations });
      if (now - this.told < TOLD) return;
      this.told = now;
      for (const [one, { delays }] of this.lines) this.patch(one, { delay: delays.delay, work: delays.work });
      this.patch(id, { lost: told.lost });
    }
  }

  private end(id: string): void {
    this.lines.get(id)?.subscription.unsubscribe();
    this.lines.delete(id);
    this.poses.delete(id);
  }

  private patch(id: string, change: Partial<LiveCharacter>): void {
    this.subject.next(this.characters.map((one) => (one.id === id ? { ...one, ...change } : one)));
  }
}
