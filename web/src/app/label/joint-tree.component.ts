import { CdkTree, CdkTreeNode, CdkTreeNodeDef, CdkTreeNodeToggle } from '@angular/cdk/tree';
import { DOCUMENT } from '@angular/common';
import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  output,
  untracked,
  viewChild,
} from '@angular/core';
import { bareNames } from '@hollow-stride/core';
import type { BodyView } from '../body/messages';

interface Row {
  readonly joint: number;
  readonly name: string;
  readonly depth: number;
  readonly role: string | undefined;
  readonly below: Row[];
}

/** All joints of a skeleton by what they hang on, each with its role; arrow keys walk and fold, Enter picks. */
@Component({
  selector: 'hs-joint-tree',
  imports: [CdkTree, CdkTreeNode, CdkTreeNodeDef, CdkTreeNodeToggle],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <cdk-tree
      class="tree"
      aria-label="Joints"
      [dataSource]="roots()"
      [childrenAccessor]="below"
      [expansionKey]="keyOf"
      [trackBy]="trackJoint"
      (keydown)="keep($event)"
    >
      <cdk-tree-node
        *cdkTreeNodeDef="let row"
        #node="cdkTreeNode"
        [id]="'joint-' + row.joint"
        [isExpandable]="row.below.length > 0"
        [attr.aria-label]="row.role ? row.name + ' ' + row.role : row.name"
        [attr.aria-selected]="row.joint === joint()"
        [class.chosen]="row.joint === joint()"
        [class.partner]="row.joint === partner()"
        [style.padding-left.px]="2 + row.depth * 5"
        (activation)="picked.emit(row.joint)"
        (click)="picked.emit(row.joint)"
        (focusin)="pointed.emit(row.joint)"
        (pointerenter)="pointed.emit(row.joint)"
        (pointerleave)="pointed.emit(-1)"
      >
        @if (row.below.length > 0) {
          <button
            type="button"
            class="fold"
            tabindex="-1"
            cdkTreeNodeToggle
            [attr.aria-label]="(node.isExpanded ? 'Fold what hangs on ' : 'Show what hangs on ') + row.name"
          >
            <i class="bi" [class.bi-chevron-down]="node.isExpanded" [class.bi-chevron-right]="!node.isExpanded" aria-hidden="true"></i>
          </button>
        } @else {
          <span class="leaf"></span>
        }
        <span class="name">{{ row.name }}</span>
        @if (row.role) {
          <span class="role">{{ row.role }}</span>
        }
      </cdk-tree-node>
    </cdk-tree>
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
    cdk-tree-node {
      display: flex;
      gap: 0 5px;
      align-items: baseline;
      padding: 1px 8px;
      border-left: 3px solid transparent;
      cursor: default;
      flex-wrap: wrap;
    }
    cdk-tree-node:hover {
      background: #ece6d9;
    }
    cdk-tree-node:focus-visible {
      outline-offset: -2px;
    }
    .fold {
      width: 14px;
      margin: 0 -1px;
      padding: 0;
      border: 0;
      background: none;
      color: var(--hs-ink-soft);
      font-size: 9px;
    }
    .leaf {
      width: 12px;
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
  private readonly tree = viewChild.required<CdkTree<Row, number>>(CdkTree);
  private readonly document = inject(DOCUMENT);
  protected readonly below = (row: Row): Row[] => row.below;
  protected readonly keyOf = (row: Row): number => row.joint;
  protected readonly trackJoint = (_: number, row: Row): string => `${row.joint} ${row.name} ${row.role ?? ''}`;

  private readonly skeleton = computed(() => this.view().display.skeleton, { equal: (a, b) => a.names.join() === b.names.join() });
  private readonly rows = computed((): Row[] => {
    const { display, roles } = this.view();
    const { parents } = display.skeleton;
    const roleOf = new Map(Object.entries(roles).map(([role, joint]) => [joint, role]));
    const rows: Row[] = [];
    bareNames(display.skeleton).forEach((name, joint) => {
      const above = rows[parents[joint]] as Row | undefined;
      const row: Row = { joint, name, depth: Math.min(12, above ? above.depth + 1 : 0), role: roleOf.get(joint), below: [] };
      rows.push(row);
      above?.below.push(row);
    });
    return rows;
  });
  protected readonly roots = computed(() => this.rows().filter((_, joint) => this.skeleton().parents[joint] < 0));

  constructor() {
    // Another skeleton is shown whole.
    afterRenderEffect(() => {
      this.skeleton();
      this.tree().expandAll();
    });
    // A joint chosen elsewhere is shown here; its folded ancestors open.
    afterRenderEffect(() => {
      const joint = this.joint();
      const rows = untracked(this.rows);
      if (!(joint in rows)) return;
      const { parents } = this.skeleton();
      for (let j = parents[joint]; j >= 0; j = parents[j]) this.tree().expand(rows[j]);
      this.document.getElementById(`joint-${joint}`)?.scrollIntoView({ block: 'nearest' });
    });
  }

  /** Keys that the tree answers to are no keys of the page. */
  protected keep(event: KeyboardEvent): void {
    if (/^(Arrow|Home|End|Enter)/.test(event.key)) event.stopPropagation();
  }
}
