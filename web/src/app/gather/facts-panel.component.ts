import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { FactsJson, SkeletonJson } from '@hollow-stride/contract';
import { describeFault, type Fault, type SkeletonChoices } from '@hollow-stride/core';
import { GroupComponent } from '../shared/group.component';
import { GuessesPanelComponent } from './guesses-panel.component';

/** Facts about a file: size, unit, axes, rest pose, labels, cautions; each guess with its reason. */
@Component({
  selector: 'hs-facts-panel',
  imports: [GroupComponent, GuessesPanelComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hs-group name="File" [note]="facts().format.toUpperCase()">
      <dl>
        <dt>file</dt>
        <dd>{{ fileName() }}</dd>
        <dt>size</dt>
        <dd class="num">{{ size() }}</dd>
        <dt>joints</dt>
        <dd class="num">{{ facts().joints }}{{ facts().hasMesh ? ', with mesh' : '' }}</dd>
        <dt>prefix</dt>
        <dd>{{ facts().prefix || 'none' }}</dd>
        @for (clip of facts().clips; track $index) {
          <dt>motion</dt>
          <dd>
            {{ clip.name }}<br /><span class="num">{{ clip.frames }}</span> frames at <span class="num">{{ clip.fps }}</span> a second,
            <span class="num">{{ clip.seconds.toFixed(2) }} s</span>
          </dd>
          <dt>samples</dt>
          <dd>
            @for (fault of counted(clip.faults); track fault.kind) {
              <span class="caution" [title]="fault.message"
                ><i class="bi bi-exclamation-triangle-fill" aria-hidden="true"></i> {{ fault.text }}</span
              ><br />
            } @empty {
              no faults found
            }
          </dd>
        }
      </dl>
    </hs-group>
    @if (facts().body; as body) {
      @if (skeleton(); as decided) {
        <hs-group name="Unit, axes, rest" [note]="body.unit.unit + ', ' + body.up.axis + ' up'">
          <hs-guesses-panel [body]="body" [skeleton]="decided" (overruled)="overruled.emit($event)" />
        </hs-group>
      }
      <hs-group name="Body">
        <dl>
          <dt>height</dt>
          <dd class="num">{{ body.height.toFixed(2) }} m, legs {{ body.legLength.toFixed(2) }} m</dd>
          <dt>soles</dt>
          <dd>
            <span class="num">{{ (body.sole.depth * 1000).toFixed(0) }} mm</span> below the foot's joints<br /><small>{{
              soleReason()
            }}</small>
          </dd>
          @if (body.floor !== null) {
            <dt>floor</dt>
            <dd class="num">{{ (body.floor * 1000).toFixed(0) }} mm</dd>
          }
        </dl>
      </hs-group>
    }
    @if (facts().labels; as labels) {
      <hs-group name="Labels" [note]="roleCount() + ' roles'" [startsOpen]="false">
        @if (labels.missing.length > 0) {
          <p class="fault"><i class="bi bi-x-circle-fill" aria-hidden="true"></i> missing: {{ labels.missing.join(', ') }}</p>
        }
        <table>
          <thead>
            <tr>
              <th scope="col">role</th>
              <th scope="col">joint</th>
              <th scope="col" class="n">sure</th>
            </tr>
          </thead>
          <tbody>
            @for (row of roles(); track row.role) {
              <tr [class.doubt]="row.confidence < 60">
                <th scope="row">{{ row.role }}</th>
                <td>{{ row.joint }}</td>
                <td class="n num">{{ row.confidence }} %</td>
              </tr>
            }
          </tbody>
        </table>
      </hs-group>
    }
    @if (facts().warnings.length > 0) {
      <hs-group name="Cautions" [note]="'' + facts().warnings.length">
        @for (warning of warnings(); track $index) {
          <p class="caution-text"><i class="bi bi-exclamation-triangle-fill caution" aria-hidden="true"></i> {{ warning }}</p>
        }
      </hs-group>
    }
  `,
  styles: `
    dl {
      display: grid;
      grid-template-columns: 58px 1fr;
      gap: 4px 8px;
      margin: 0;
    }
    dt {
      font-weight: 400;
      color: var(--hs-ink-soft);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    small {
      color: var(--hs-ink-soft);
      font-size: 12px;
      line-height: 1.3;
      display: inline-block;
    }
    table {
      width: 100%;
      font-size: 12.5px;
    }
    th {
      font-weight: 400;
    }
    thead th {
      color: var(--hs-ink-soft);
    }
    td {
      overflow-wrap: anywhere;
    }
    .n {
      text-align: right;
    }
    .doubt {
      color: var(--hs-caution);
    }
    p {
      margin: 0 0 6px;
      font-size: 12.5px;
    }
  `,
})
export class FactsPanelComponent {
  readonly facts = input.required<FactsJson>();
  readonly fileName = input.required<string>();
  readonly bytes = input.required<number>();
  /** Decisions about the skeleton; where they are given, its guesses can be overruled. */
  readonly skeleton = input<SkeletonJson | undefined>();
  readonly overruled = output<{ choices: Partial<SkeletonChoices>; text: string; key?: string }>();

  protected readonly size = computed(() =>
    this.bytes() < 1e6 ? `${(this.bytes() / 1e3).toFixed(0)} kB` : `${(this.bytes() / 1e6).toFixed(1)} MB`,
  );
  protected readonly roles = computed(() =>
    Object.entries(this.facts().labels?.roles ?? {}).map(([role, joint]) => ({
      role,
      joint,
      confidence: Math.round((this.facts().labels?.confidence[role] ?? 0) * 100),
    })),
  );
  /** Faults by kind, with the first message of each. */
  protected counted(faults: FactsJson['clips'][number]['faults']): { kind: string; text: string; message: string }[] {
    const kinds = [...new Set(faults.map(({ kind }) => kind))];
    return kinds.map((kind) => {
      const of = faults.filter((fault) => fault.kind === kind);
      const first = of[0];
      const text = of.length > 1 ? `${of.length} × ${kind}` : kind === 'drift' ? kind : `${kind} at frame ${first.from + 1}`;
      return { kind, text, message: `${first.joint ? `${first.joint}: ` : ''}${first.message}` };
    });
  }

  protected readonly roleCount = computed(() => this.roles().length);
  protected readonly warnings = computed(() => this.facts().warnings.map((w) => describeFault(w as Fault)));
  protected readonly soleReason = computed(() => {
    const known = this.facts().body?.sole.known;
    return known === 'mesh'
      ? 'measured on the mesh'
      : known === 'rest'
        ? 'the rest pose stands on a floor at zero'
        : known === 'take'
          ? 'from how low the feet come in the take'
          : 'not known; taken from the other body of a pair';
  });
}
