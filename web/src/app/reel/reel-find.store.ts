import { inject, Injectable } from '@angular/core';
import type { TakeJson } from '@hollow-stride/contract';
import type { ReelMix } from '@hollow-stride/core';
import { forkJoin } from 'rxjs';
import { NoticesService } from '../notices/notices.service';
import { ProjectStore } from '../project/project.store';
import type { PairRequest } from '../solver/messages';
import { faultOf } from '../solver/worker-client';
import { ReelService } from './reel.service';
import { ReelStore } from './reel.store';
import { rounded } from './seconds';

/** Clips that are joined go over into each other over twice so long; a cycle is left within so long before its end, seconds. */
const HALF = 0.25;
const LEAVES = 0.5;

/** Finds in results what clips are cut, joined and mixed by: cycles, and where one goes over into another best. */
@Injectable({ providedIn: 'root' })
export class ReelFindStore {
  private readonly reel = inject(ReelStore);
  private readonly project = inject(ProjectStore);
  private readonly service = inject(ReelService);
  private readonly notices = inject(NoticesService);

  /** Cuts the chosen clip to the best cycle of its take, closed. */
  findCycle(): void {
    const [own, pair] = [this.reel.clip, this.pairOfChosen()];
    if (!own || !pair) return;
    this.service.find({ kind: 'cycle', pair }).subscribe({
      next: ({ cycle }) => {
        if (!cycle) this.notices.caution(`no cycle was found in ${own.name}: it never comes back to a pose at the same speed`);
        else {
          const { from, to, seam } = cycle;
          this.reel.changeClip({ from: rounded(from), to: rounded(to), closed: true, repeats: Math.max(4, own.repeats) });
          this.notices.done(`a cycle of ${(to - from).toFixed(2)} s; its ends are ${(seam * 1000).toFixed(0)} mm apart and are closed`);
        }
      },
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
  }

  /** Mixes the chosen clip's cycle with that of another take, by their speeds; a third one joins a mix of two. */
  mixWith(take: TakeJson): void {
    const [own, pair] = [this.reel.clip, this.pairOfChosen()];
    const lane = this.reel.lane;
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
        this.reel.changeClip({ mix: { cycles, keys, seconds: own.mix?.seconds ?? 8 } });
      },
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
  }

  /** Moves the chosen clip to where the one before it on its lane goes over into it best. */
  joinBest(): void {
    const { lane, clip } = this.reel.state.chosen;
    const [own, content] = [this.reel.clip, this.reel.content];
    if (!own || !content) return;
    const order = content.lanes[lane].clips.map((one, i) => ({ one, i })).sort((a, b) => a.one.start - b.one.start || a.i - b.i);
    const before = order[order.findIndex(({ i }) => i === clip) - 1] as (typeof order)[number] | undefined;
    const [a, b] = [before && this.reel.pair(before.one.take, content.lanes[lane].character), this.pairOfChosen()];
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
        this.reel.setClips(lane, clips, `join ${own.name} where it fits best`);
        this.notices.done(`joined where poses are ${(joining.apart * 1000).toFixed(0)} mm apart`);
      },
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
  }

  private pairOfChosen(): PairRequest | undefined {
    const { lane } = this.reel.state.chosen;
    const [own, content] = [this.reel.clip, this.reel.content];
    return own && content ? this.reel.pair(own.take, content.lanes[lane].character) : undefined;
  }
}
