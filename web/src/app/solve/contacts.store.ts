import { inject, Injectable } from '@angular/core';
import type { PlantEdit, TouchEdit } from '@hollow-stride/core';
import { PairStore } from '../pair/pair.store';
import { EditsStore } from '../project/edits.store';

import { KeptStore } from './kept.store';
import { keyOf, type Bar, type LaneOf } from './lanes/lanes';
import { SolveStore } from './solve.store';

type Span = Pick<Bar, 'first' | 'last'>;
type Kind = 'add' | 'remove';
type Times = Pick<PlantEdit, 'from' | 'to'>;

/** Edits of plants and touches of the take: kept in the take's seconds, each change a step that can be undone. */
@Injectable({ providedIn: 'root' })
export class ContactsStore {
  private readonly edits = inject(EditsStore);
  private readonly pairs = inject(PairStore);
  private readonly solve = inject(SolveStore);
  private readonly kept = inject(KeptStore);

  /** Holds a span. @param height metres over the floor of what a foot stands on */
  add(of: LaneOf, span: Span, height: number | null = null): void {
    this.change(of, [['add', span]], `hold the ${keyOf(of)}`, height);
  }

  remove(of: LaneOf, span: Span): void {
    this.change(of, [['remove', span]], `remove the ${keyOf(of)}`);
  }

  /** Gives a held span other ends. */
  resize(of: LaneOf, was: Span, span: Span): void {
    const changes: [Kind, Span][] = [];
    if (span.first > was.first) changes.push(['remove', { first: was.first, last: span.first - 1 }]);
    if (span.last < was.last) changes.push(['remove', { first: span.last + 1, last: was.last }]);
    if (span.first < was.first || span.last > was.last) {
      changes.push(['add', { first: Math.min(span.first, was.first), last: Math.max(span.last, was.last) }]);
      if (span.first > was.first) changes.push(['remove', { first: was.first, last: span.first - 1 }]);
      if (span.last < was.last) changes.push(['remove', { first: span.last + 1, last: was.last }]);
    }
    if (changes.length > 0) this.change(of, changes, `change an end of the ${keyOf(of)}`);
  }

  /** Parts a span at a frame, which is let go. */
  split(of: LaneOf, frame: number): void {
    this.change(of, [['remove', { first: frame, last: frame }]], `split the ${keyOf(of)}`);
  }

  join(of: LaneOf, a: Span, b: Span): void {
    this.change(of, [['add', { first: Math.min(a.first, b.first), last: Math.max(a.last, b.last) }]], `join the ${keyOf(of)}`);
  }

  private change(of: LaneOf, changes: readonly (readonly [Kind, Span])[], text: string, height: number | null = null): void {
    const { take } = this.pairs.now;
    const { solved } = this.solve.state;
    if (!take || !solved) return;
    const { start, pace } = solved.time;
    const at = (frame: number): number => Math.max(0, start + (frame * solved.take.frameTime) / pace);
    let { plants, touches, rests = [] } = take.choices;
    for (const [kind, { first, last }] of changes) {
      const span = { kind, from: at(first), to: at(last) };
      if (of.kind === 'plant') {
        const { side, part } = of;
        const edit: PlantEdit = { ...span, side, part, height };
        plants = [...plants.filter((other) => !isOver(edit, other, other.side === side && other.part === part)), edit];
      } else if (of.kind === 'body') {
        rests = [...rests.filter((other) => !isOver(span, other, other.part === of.part)), { ...span, part: of.part }];
      } else {
        const { side, on } = of;
        const edit: TouchEdit = { ...span, side, on, ...('part' in of && { part: of.part }) };
        touches = [...touches.filter((other) => !isOver(edit, other, isSameTouch(edit, other))), edit];
      }
    }
    this.kept.waitFor();
    const choices = { ...take.choices, plants, touches, ...(rests.length > 0 && { rests }) };
    this.edits.changeTake(take.id, { choices }, text);
  }
}

/** True when a later edit leaves nothing of an earlier one of the same lane. */
function isOver(edit: Times, other: Times, isSameLane: boolean): boolean {
  return isSameLane && other.from >= edit.from && other.to <= edit.to;
}

function isSameTouch(a: TouchEdit, b: TouchEdit): boolean {
  return a.side === b.side && a.on === b.on && a.part === b.part;
}
