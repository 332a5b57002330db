import { ChangeDetectionStrategy, Component, computed, effect, type ElementRef, inject, input, output, viewChild } from '@angular/core';
import { DOCUMENT } from '@angular/common';
import { bareNames } from '@hollow-stride/core';
import type { BodyView } from '../body/messages';

/** All joints of a skeleton by what they hang on, each with its role; arrow keys walk, Enter picks. */
@Component({
  selector: 'hs-joint-tree',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      #tree
      class="tree"
      role="tree"
      tabindex="0"
      aria-label="Joints"
      [attr.aria-activedescendant]="joint() >= 0 ? 'joint-' + joint() : null"
      (keydown)="key($event)"
    >
      @for (row of rows(); track row.joint) {
        <div
          role="treeitem"
          [id]="'joint-' + row.joint"
          [attr.aria-level]="row.depth + 1"
          [attr.aria-selected]="row.joint === joint()"
          [class.chosen]="row.joint === joint()"
          [class.partner]="row.joint === partner()"
          [style.padding-left.px]="8 + row.depth * 5"
          tabindex="-1"
          (click)="pick(row.joint)"
          (keydown.enter)="pick(row.joint); $event.stopPropagation()"
          (pointerenter)="pointed.emit(row.joint)"
          (pointerleave)="pointed.emit(-1)"
        >
          <span class="name">{{ row.name }}</span>
          @if (row.role) {
            <span class="role">{{ row.role }}</span>
          }
        </div>
      }
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
    }
    .tree {
      flex: 1;
      overflow-y: auto;
      font-size: 12.5px;
    }
    .tree:focus-visible {
      outline-offset: -2px;
    }
    [role='treeitem'] {
      display: flex;
      gap: 0 6px;
      align-items: baseline;
      padding: 1px 8px;
      border-left: 3px solid transparent;
      cursor: default;
      flex-wrap: wrap;
    }
    [role='treeitem']:hover {
      background: #ece6d9;
    }
    .chosen {
      background: var(--hs-sheet);
      border-left-color: var(--hs-act);
      font-weight: 600;
    }
    .partner {
      border-left: 3px double var(--hs-act);
    }
    .name {
      overflow-wrap: anywhere;
    }
    .role {
      margin-left: auto;
      overflow-wrap: anywhere;
      color: var(--hs-ink-soft);
      font-weight: 400;
      font-size: 11.5px;
    }
  `,
})
export class JointTreeComponent {
  readonly view = input.required<BodyView>();
  readonly joint = input(-1);
  readonly partner = input(-1);
  readonly picked = output<number>();
  readonly pointed = output<number>();
  private readonly tree = viewChild.required<ElementRef<HTMLElement>>('tree');
  private readonly document = inject(DOCUMENT);
  private walked = -1;

  protected readonly rows = computed(() => {
    const { display, roles } = this.view();
    const { skeleton } = display;
    const roleOf = new Map(Object.entries(roles).map(([role, joint]) => [joint, role]));
    const depth: number[] = [];
    return bareNames(skeleton).map((name, joint) => {
      depth.push(skeleton.parents[joint] < 0 ? 0 : depth[skeleton.parents[joint]] + 1);
      return { joint, name, depth: Math.min(depth[joint], 12), role: roleOf.get(joint) };
    });
  });

  constructor() {
    effect(() => {
      const joint = this.joint();
      this.walked = joint;
      if (joint >= 0) this.document.getElementById(`joint-${joint}`)?.scrollIntoView({ block: 'nearest' });
    });
  }

  /** The tree keeps the focus: its arrow keys go on from here. */
  protected pick(joint: number): void {
    this.tree().nativeElement.focus();
    this.picked.emit(joint);
  }

  protected key(event: KeyboardEvent): void {
    const count = this.rows().length;
    const to: Record<string, () => number> = {
      ArrowDown: () => Math.min(count - 1, this.walked + 1),
      ArrowUp: () => Math.max(0, this.walked - 1),
      ArrowLeft: () => Math.max(0, this.view().display.skeleton.parents[Math.max(0, this.walked)]),
      ArrowRight: () => {
        const child = this.view().display.skeleton.parents.indexOf(this.walked);
        return child < 0 ? this.walked : child;
      },
      Home: () => 0,
      End: () => count - 1,
    };
    if (event.key === 'Enter') this.picked.emit(Math.max(0, this.walked));
    else if (event.key in to) {
      this.walked = to[event.key]();
      this.pointed.emit(this.walked);
      this.show(this.walked);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private show(joint: number): void {
    const tree = this.tree().nativeElement;
    for (const old of tree.querySelectorAll('.walked')) old.classList.remove('walked');
    const row = this.document.getElementById(`joint-${joint}`);
    row?.classList.add('walked');
    row?.scrollIntoView({ block: 'nearest' });
    tree.setAttribute('aria-activedescendant', `joint-${joint}`);
  }
}
