import { inject, Injectable } from '@angular/core';
import type { ChangeTakes } from '@hollow-stride/contract';
import { BehaviorSubject } from 'rxjs';
import { ApiService } from '../api/api.service';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { EditsStore } from '../project/edits.store';
import { ProjectStore } from '../project/project.store';

const counted = (n: number): string => (n === 1 ? '1 take' : `${n} takes`);

/** Takes that are chosen together, and what is done to all of them at once; each a step that can be taken back. */
@Injectable({ providedIn: 'root' })
export class SeveralStore {
  private readonly api = inject(ApiService);
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);
  private readonly history = inject(HistoryService);
  private readonly notices = inject(NoticesService);
  private readonly subject = new BehaviorSubject<ReadonlySet<string>>(new Set());
  readonly chosen$ = this.subject.asObservable();
  /** The take from which a range is drawn. */
  private anchor: string | undefined;

  constructor() {
    this.history.register('takes', (_, request) => this.send(request as ChangeTakes));
    this.history.register('labels', (id, labels) => this.edits.putLabels(id, labels as Record<string, string> | null));
  }

  get chosen(): ReadonlySet<string> {
    return this.subject.value;
  }

  /** Puts a take in or out. */
  toggle(id: string): void {
    const next = new Set(this.chosen);
    if (!next.delete(id)) next.add(id);
    this.anchor = id;
    this.subject.next(next);
  }

  /** A single choice starts anew: ranges are drawn from it. */
  startAt(id: string): void {
    this.anchor = id;
    if (this.chosen.size > 0) this.subject.next(new Set());
  }

  /** Adds all from the take that was touched last to this one. @param ids all that are listed, in the order of the list */
  extendTo(id: string, ids: readonly string[]): void {
    const [from, to] = [ids.indexOf(this.anchor ?? id), ids.indexOf(id)].sort((a, b) => a - b);
    if (from < 0) this.toggle(id);
    else this.subject.next(new Set([...this.chosen, ...ids.slice(from, to + 1)]));
  }

  all(ids: readonly string[]): void {
    this.subject.next(new Set(ids));
  }

  none(): void {
    this.subject.next(new Set());
  }

  tag(tag: string): void {
    this.step(`tag ${counted(this.chosen.size)} "${tag}"`, { kind: 'tag', tag }, { kind: 'untag', tag });
  }

  untag(tag: string): void {
    this.step(`take the tag "${tag}" off ${counted(this.chosen.size)}`, { kind: 'untag', tag }, { kind: 'tag', tag });
  }

  /** The rest pose in front of a recording is no part of the motion. */
  trim(): void {
    this.step(`leave out the rest pose of ${counted(this.chosen.size)}`, { kind: 'trim' }, { kind: 'untrim' });
  }

  clean(): void {
    this.step(`fill gaps and take out spikes of ${counted(this.chosen.size)}`, { kind: 'clean' }, { kind: 'unclean' });
  }

  /** Frames a second, where the files say a wrong number or none. */
  rate(rate: number): void {
    this.step(`${counted(this.chosen.size)} recorded at ${rate} a second`, { kind: 'rate', rate }, { kind: 'unrate' });
  }

  /** They play from a second of their own on. */
  start(seconds: number): void {
    this.step(`${counted(this.chosen.size)} from ${seconds} s on`, { kind: 'start', seconds }, { kind: 'untrim' });
  }

  reverse(): void {
    this.step(`play ${counted(this.chosen.size)} backwards`, { kind: 'reverse' }, { kind: 'reverse' });
  }

  loop(seconds: number): void {
    this.step(`loop ${counted(this.chosen.size)} over ${seconds} s`, { kind: 'loop', seconds }, { kind: 'unloop' });
  }

  remove(): void {
    this.step(`remove ${counted(this.chosen.size)} from the rack`, { kind: 'remove' }, { kind: 'restore' }, true);
  }

  /** Labels the skeletons that the chosen takes stand on by a naming scheme. */
  label(scheme: { readonly id: string; readonly name: string }): void {
    this.api.labelTakes([...this.chosen], scheme.id).subscribe({
      next: ({ skeletons, passed }) => {
        const text = `label ${skeletons.length === 1 ? skeletons[0].name : `${skeletons.length} skeletons`} by ${scheme.name}`;
        if (skeletons.length > 0) {
          const edits = skeletons.map(({ id, before, after }) => ({ kind: 'labels', target: id, before, after }));
          this.project.load();
          this.history.did({ text, edits });
          this.notices.done(`${text}: done`, () => this.history.undo());
        }
        for (const { name, why } of passed.slice(0, 3)) {
          this.notices.fault({ code: 'option', message: `${name} was passed over: ${why}`, where: {} });
        }
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  private step(text: string, change: ChangeTakes['change'], back: ChangeTakes['change'], leave = false): void {
    const takes = [...this.chosen];
    if (takes.length === 0) return;
    this.send({ takes, change }, (changed) => {
      if (leave) this.none();
      // Only what it made different is put back.
      const edit = { kind: 'takes', target: '', before: { takes: changed, change: back }, after: { takes: changed, change } };
      if (changed.length === 0) {
        this.notices.done(`${text}: there is nothing to change`);
        return;
      }
      this.history.did({ text, edits: [edit] });
      const passed = takes.length - changed.length;
      this.notices.done(`${text}: done${passed > 0 ? `; ${passed} had nothing to change` : ''}`, () => this.history.undo());
    });
  }

  private send(request: ChangeTakes, then?: (changed: string[]) => void): void {
    if (request.takes.length === 0) return;
    this.api.changeTakes(request).subscribe({
      next: (changed) => {
        then?.(changed);
        this.project.load();
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }
}
