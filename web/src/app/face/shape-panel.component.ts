import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { DEFAULT_FACE_ROW, FACE_REASONS, type FaceTurn, type ResponseCurve } from '@hollow-stride/core';
import { NumberComponent } from '../shared/number.component';
import { FaceStore } from './face.store';

type Amount = 'strength' | 'offset' | 'rest' | 'low' | 'high';
const AMOUNTS: readonly { readonly key: Amount; readonly name: string; readonly title: string }[] = [
  { key: 'strength', name: 'strength', title: 'The channels taken so many times' },
  { key: 'offset', name: 'added to the recording', title: 'A mouth that is recorded as 0.06 when shut: −0.06' },
  { key: 'rest', name: 'at rest', title: 'Where the shape is when the recording is at nothing' },
  { key: 'low', name: 'no lower than', title: '' },
  { key: 'high', name: 'no higher than', title: '' },
];
const AXES = ['about left', 'about up', 'about ahead'] as const;

/** What drives the chosen shape or joint, and how it answers. */
@Component({
  selector: 'hs-shape-panel',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './shape-panel.component.html',
  styleUrl: './shape-panel.component.scss',
})
export class ShapePanelComponent {
  protected readonly store = inject(FaceStore);
  private readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly amounts = AMOUNTS;
  protected readonly axes = AXES;
  protected readonly usual = DEFAULT_FACE_ROW;

  protected readonly row = computed(() => {
    const { table, chosen } = this.state();
    const row = table?.rows.find(({ shape }) => shape === chosen);
    if (!row) return undefined;
    return { ...row, why: FACE_REASONS[row.reason], isSet: row.shape in this.store.names.rows };
  });
  protected readonly joint = computed(() => {
    const { table, chosen } = this.state();
    return table?.joints.find(({ joint }) => joint === chosen);
  });
  /** Channels that do not drive the shape yet; those that drive nothing first. */
  protected readonly others = computed(() => {
    const { shown, recording, table } = this.state();
    const facts = recording?.facts;
    const channels = facts?.kind === 'face' ? facts.channels.map(({ name }) => name) : (shown?.track.channels ?? []);
    const used = new Set(this.row()?.from.map(({ channel }) => channel));
    const left = new Set(table?.left);
    return channels.filter((channel) => !used.has(channel)).sort((a, b) => Number(left.has(b)) - Number(left.has(a)));
  });

  protected add(event: Event): void {
    const select = event.target as HTMLSelectElement;
    const row = this.row();
    if (row && select.value !== '') this.store.addSource(row.shape, select.value);
    select.value = '';
  }

  protected setAmount(shape: string, key: Amount, value: number): void {
    this.store.setRow(shape, { [key]: value }, `face ${shape} ${key}`);
  }

  protected setPoint(at: number, part: 0 | 1, value: number): void {
    const row = this.row();
    if (!row?.curve) return;
    const points = row.curve.map((point, i): [number, number] => (i === at ? (part === 0 ? [value, point[1]] : [point[0], value]) : point));
    // A point that were moved past its neighbour stays where it was.
    if (points.every(([x], i) => i === 0 || x > points[i - 1][0]))
      this.store.setRow(row.shape, { curve: points }, `curve ${row.shape} ${at}`);
  }

  protected addPoint(): void {
    const row = this.row();
    if (!row) return;
    const curve: ResponseCurve = row.curve ?? [
      [0, 0],
      [1, 1],
    ];
    if (row.curve === null) this.store.setRow(row.shape, { curve });
    else {
      const gaps = curve.slice(1).map(([x], i) => x - curve[i][0]);
      const widest = gaps.indexOf(Math.max(...gaps));
      const [[x0, y0], [x1, y1]] = [curve[widest], curve[widest + 1]];
      this.store.setRow(row.shape, {
        curve: [...curve.slice(0, widest + 1), [(x0 + x1) / 2, (y0 + y1) / 2], ...curve.slice(widest + 1)],
      });
    }
  }

  protected removePoint(at: number): void {
    const row = this.row();
    if (!row?.curve) return;
    this.store.setRow(row.shape, { curve: row.curve.length > 2 ? row.curve.filter((_, i) => i !== at) : null });
  }

  protected setTurn(at: number, change: Partial<FaceTurn>): void {
    const joint = this.joint();
    if (!joint) return;
    this.store.setTurns(
      joint.joint,
      joint.turns.map((turn, i) => (i === at ? { ...turn, ...change } : turn)),
      `turn ${joint.joint} ${at} ${Object.keys(change).join()}`,
    );
  }

  protected degrees(turn: FaceTurn, axis: number, value: number): FaceTurn['degrees'] {
    const [x, y, z] = turn.degrees;
    return axis === 0 ? [value, y, z] : axis === 1 ? [x, value, z] : [x, y, value];
  }
}
