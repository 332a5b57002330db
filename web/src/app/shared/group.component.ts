import { ChangeDetectionStrategy, Component, input, signal, type OnInit } from '@angular/core';
import { NgbCollapse } from '@ng-bootstrap/ng-bootstrap';

/** A group of settings or facts that opens and shuts; it remembers which. */
@Component({
  selector: 'hs-group',
  imports: [NgbCollapse],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>
      <button type="button" [attr.aria-expanded]="open()" (click)="toggle()">
        <i class="bi" [class.bi-chevron-down]="open()" [class.bi-chevron-right]="!open()" aria-hidden="true"></i>{{ name() }}
        @if (note()) {
          <span class="note">{{ note() }}</span>
        }
      </button>
    </h2>
    <div [ngbCollapse]="!open()" [animation]="false">
      <div class="body"><ng-content /></div>
    </div>
  `,
  styles: `
    :host {
      display: block;
      border-bottom: 1px solid var(--hs-rule);
    }
    h2 {
      margin: 0;
      font-size: 14px;
    }
    button {
      display: flex;
      align-items: baseline;
      gap: 7px;
      width: 100%;
      padding: 7px 12px;
      border: 0;
      background: none;
      font: inherit;
      color: inherit;
      text-align: left;
    }
    button:hover {
      background: #f3eee2;
    }
    i {
      font-size: 10px;
    }
    .note {
      margin-left: auto;
      font:
        400 12.5px 'Hanken Grotesk Variable',
        sans-serif;
      color: var(--hs-ink-soft);
    }
    .body {
      padding: 0 12px 10px;
    }
  `,
})
export class GroupComponent implements OnInit {
  readonly name = input.required<string>();
  readonly note = input('');
  readonly startsOpen = input(true);
  protected readonly open = signal(true);

  ngOnInit(): void {
    const kept = localStorage.getItem(this.key());
    this.open.set(kept === null ? this.startsOpen() : kept === '1');
  }

  protected toggle(): void {
    this.open.update((open) => !open);
    localStorage.setItem(this.key(), this.open() ? '1' : '0');
  }

  private key(): string {
    return `hollow-stride.group.${this.name()}`;
  }
}
