import { inject, Injectable } from '@angular/core';
import { amountAt, makeTouchUp, TOUCH_UPS, type Side, type TouchUp, type TouchUpKind } from '@hollow-stride/core';
import { distinctUntilChanged, map, type Observable, shareReplay } from 'rxjs';
import type { SolveChoices, TouchUpSetJson } from '@hollow-stride/contract';
import { PairStore } from '../../pair/pair.store';
import { ItemsStore } from '../../project/items.store';

import { KeptStore } from '../kept.store';
import { SAME_MOMENT, TakeTimeService } from '../take-time.service';

type Stored = SolveChoices['touchUps'][number];

/** A touch-up of the pair that is looked at, by its place in the order. */
export interface TouchUpEntry {
  readonly index: number;
  readonly touchUp: TouchUp;
  /** Of this take alone, or of all takes of the pairing. */
  readonly isOfTake: boolean;
}

/** The touch-ups of the current pair: each change is a step that can be taken back. */
@Injectable({ providedIn: 'root' })
export class TouchUpsStore {
  private readonly pairs = inject(PairStore);
  private readonly kept = inject(KeptStore);
  private readonly items = inject(ItemsStore);
  private readonly time = inject(TakeTimeService);

  readonly entries$: Observable<readonly TouchUpEntry[]> = this.pairs.pair$.pipe(
    map(({ take, choices }) => entriesOf(choices.touchUps, take?.id)),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
    shareReplay({ bufferSize: 1, refCount: true }),
  );

  get entries(): readonly TouchUpEntry[] {
    const { take, choices } = this.pairs.now;
    return entriesOf(choices.touchUps, take?.id);
  }

  /** Adds a touch-up that does nothing yet. @returns its place in the order */
  add(kind: TouchUpKind, of: Partial<Pick<TouchUp, 'side' | 'role' | 'axis' | 'mask'>> = {}, key?: string): number {
    const { take, choices } = this.pairs.now;
    const { touchUps } = choices;
    const touchUp = makeTouchUp({ kind, ...of });
    // It holds for the take that is looked at, until a person says that it holds for all.
    this.put([...touchUps, { touchUp, take: take?.id ?? null }], `touch up ${nameOf(touchUp)}`, key);
    return touchUps.length;
  }

  change(index: number, change: Partial<TouchUp>, text: string, key?: string): void {
    const { take } = this.pairs.now;
    this.patch(
      index,
      (stored) => {
        // A touch-up with a time span belongs to this take, until a person says otherwise.
        const isTimed = stored.touchUp.mask === null && change.mask;
        return { take: isTimed ? (take?.id ?? null) : stored.take, touchUp: { ...stored.touchUp, ...change } };
      },
      text,
      key,
    );
  }

  /** Sets the amount at the frame that is shown: of its key there, where it has keys; else for all time. */
  setAmount(index: number, amount: number, key = `touch-up ${index}`): void {
    this.patch(
      index,
      ({ touchUp, take }) => {
        const { most } = TOUCH_UPS[touchUp.kind];
        const value = Math.max(-most, Math.min(most, Math.round(amount * 10) / 10));
        return { take, touchUp: touchUp.keys.length === 0 ? { ...touchUp, value } : withKey(touchUp, this.now, value) };
      },
      `touch up ${nameOf(this.at(index))}`,
      key,
    );
  }

  /** Sets a key at the frame that is shown, or removes it. A keyed touch-up belongs to this take alone. */
  toggleKey(index: number): void {
    const { take } = this.pairs.now;
    const at = this.now;
    this.patch(
      index,
      (stored) => {
        const { touchUp } = stored;
        const without = touchUp.keys.filter((key) => Math.abs(key.at - at) > SAME_MOMENT);
        if (without.length === touchUp.keys.length) return { touchUp: withKey(touchUp, at, this.amount(touchUp)), take: take?.id ?? null };
        // The last key that goes leaves its amount for all time.
        return { ...stored, touchUp: { ...touchUp, keys: without, value: without.length === 0 ? this.amount(touchUp) : touchUp.value } };
      },
      `key of ${nameOf(this.at(index))}`,
    );
  }

  moveKey(index: number, from: number, to: number): void {
    this.patch(
      index,
      (stored) => {
        const moved = stored.touchUp.keys.find((key) => Math.abs(key.at - from) <= SAME_MOMENT);
        if (!moved) return stored;
        const others = stored.touchUp.keys.filter((key) => key !== moved && Math.abs(key.at - to) > SAME_MOMENT);
        return { ...stored, touchUp: { ...stored.touchUp, keys: [...others, { ...moved, at: to }].sort((a, b) => a.at - b.at) } };
      },
      `move a key of ${nameOf(this.at(index))}`,
    );
  }

  /** Of this take alone, or of all takes of the pairing: what it moves on all of them must not be keyed in one's time. */
  setScope(index: number, isOfTake: boolean): void {
    const { take } = this.pairs.now;
    this.patch(
      index,
      (stored) => ({ ...stored, take: isOfTake ? (take?.id ?? null) : null }),
      `touch-up of ${isOfTake ? 'this take' : 'all takes'}`,
    );
  }

  /** Moves a touch-up up or down among those of the pair. */
  move(index: number, by: -1 | 1): void {
    const { entries } = this;
    const at = entries.findIndex((entry) => entry.index === index);
    const other = entries.at(at + by);
    if (at < 0 || at + by < 0 || !other) return;
    const list = [...this.pairs.now.choices.touchUps];
    [list[index], list[other.index]] = [list[other.index], list[index]];
    this.put(list, 'order of touch-ups');
  }

  remove(index: number): void {
    const { touchUps } = this.pairs.now.choices;
    this.put(
      touchUps.filter((_, i) => i !== index),
      `take off the touch-up of ${nameOf(touchUps.at(index)?.touchUp)}`,
    );
  }

  /** Keeps the touch-ups that hold for the take as a set. */
  keepAsSet(name: string): void {
    this.items.addSet({ name, touchUps: this.entries.map(({ touchUp }) => touchUp) });
  }

  /** Lays a set on this take, behind what is there. */
  useSet({ name, touchUps }: TouchUpSetJson): void {
    const { take, choices } = this.pairs.now;
    const laid = touchUps.map((touchUp): Stored => ({ touchUp, take: take?.id ?? null }));
    this.put([...choices.touchUps, ...laid], `use the touch-ups ${name}`);
  }

  /** The touch-up of a kind and side of this take, made when there is none: one of all takes is not changed for one of them. */
  placeOf(kind: TouchUpKind, side: Side | 'both', key?: string): number {
    const found = this.entries.find(({ touchUp, isOfTake }) => isOfTake && touchUp.kind === kind && touchUp.side === side && touchUp.on);
    return found?.index ?? this.add(kind, { side }, key);
  }

  /** The touch-up of one stand of a foot, made when there is none. @param span frames in which the foot is down */
  placeOfStep(kind: TouchUpKind, side: Side, span: { readonly from: number; readonly to: number }, key?: string): number {
    return (
      this.stepAt(kind, side, span) ??
      this.add(kind, { side, mask: { from: this.secondsAt(span.from), to: this.secondsAt(span.to), fade: 0 } }, key)
    );
  }

  /** The touch-up of one stand of a foot, where there is one. */
  stepAt(kind: TouchUpKind, side: Side, { from, to }: { readonly from: number; readonly to: number }): number | undefined {
    const middle = this.secondsAt((from + to) >> 1);
    return this.entries.find(
      ({ touchUp: { kind: own, side: of, mask, on } }) =>
        own === kind && of === side && on && mask && mask.from <= middle && middle <= mask.to,
    )?.index;
  }

  at(index: number): TouchUp | undefined {
    return this.pairs.now.choices.touchUps.at(index)?.touchUp;
  }

  /** The amount of a touch-up at the frame that is shown, before strength and mask. */
  amount(touchUp: TouchUp): number {
    // A key is set at a frame's own second, give or take rounding.
    return amountAt(touchUp, this.now + SAME_MOMENT / 2);
  }

  hasKey(touchUp: TouchUp): boolean {
    return touchUp.keys.some((key) => Math.abs(key.at - this.now) <= SAME_MOMENT);
  }

  frameAt(seconds: number): number {
    return this.time.frameAt(seconds);
  }

  secondsAt(frame: number): number {
    return this.time.secondsAt(frame);
  }

  private get now(): number {
    return this.time.now;
  }

  private patch(index: number, change: (stored: Stored) => Stored, text: string, key?: string): void {
    const list = this.pairs.now.choices.touchUps;
    if (list[index] === undefined) return;
    this.put(
      list.map((stored, i) => (i === index ? change(stored) : stored)),
      text,
      key,
    );
  }

  private put(touchUps: readonly Stored[], text: string, key?: string): void {
    this.kept.change({ touchUps: [...touchUps] }, text, key);
  }
}

function entriesOf(stored: readonly Stored[], take: string | undefined): TouchUpEntry[] {
  return stored.flatMap(({ touchUp, take: of }, index) => (of === null || of === take ? [{ index, touchUp, isOfTake: of !== null }] : []));
}

function withKey(touchUp: TouchUp, at: number, value: number): TouchUp {
  const others = touchUp.keys.filter((key) => Math.abs(key.at - at) > SAME_MOMENT);
  return { ...touchUp, keys: [...others, { at, value }].sort((a, b) => a.at - b.at) };
}

/** Name of a touch-up for people: "left knees out", "lean ahead". */
export function nameOf(touchUp: TouchUp | undefined): string {
  if (!touchUp) return 'nothing';
  const { name, way } = TOUCH_UPS[touchUp.kind];
  const axis = { left: 'forward', up: 'to its left', ahead: 'to its right' }[touchUp.axis];
  if (touchUp.kind === 'joint') return `${touchUp.role} ${axis}`;
  const one = touchUp.side === 'both' ? name : `${touchUp.side} ${SINGULAR[name] ?? name}`;
  // Steps that are moved are told apart by when they stand.
  return `${one} ${way}${name === 'steps' && touchUp.mask ? ` at ${((touchUp.mask.from + touchUp.mask.to) / 2).toFixed(1)} s` : ''}`;
}

const SINGULAR: Readonly<Record<string, string>> = {
  shoulders: 'shoulder',
  arms: 'arm',
  elbows: 'elbow',
  thumbs: 'thumb',
  legs: 'leg',
  knees: 'knee',
  feet: 'foot',
  steps: 'step',
};
