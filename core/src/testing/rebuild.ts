import type { Shape, ShapeJoint } from './bodies';

type V = readonly [number, number, number];

/** A body on four legs: the trunk level, all four limbs down to the floor. */
export function onFourLegs(shape: Shape): Shape {
  const turned = shape.joints.map((joint): ShapeJoint => {
    const [x, y, z] = joint.offset;
    if (/spine|neck|head|clavicle/.test(joint.role)) return { ...joint, offset: [x, z, y] };
    if (/lowerArm|hand/.test(joint.role)) return { ...joint, offset: [y, -Math.abs(x), z] };
    return joint;
  });
  const heightOf = (j: number): number => (j < 0 ? 0 : turned[j].offset[1] + heightOf(turned[j].parent));
  const joints = turned.map((joint): ShapeJoint => {
    if (!/lowerArm|hand/.test(joint.role)) return joint;
    const [shoulder, wrist] = ['upperArm', 'hand'].map((part) =>
      heightOf(turned.findIndex(({ role }) => role === joint.role.replace(/lowerArm|hand/, part))),
    );
    const longer = (shoulder - PAW) / (shoulder - wrist);
    return { ...joint, offset: [joint.offset[0], joint.offset[1] * longer, joint.offset[2]] };
  });
  const tips = new Map([...shape.tips].map(([role, tip]) => [role, role.endsWith('hand') ? ([0, -PAW, 0.1] as const) : tip]));
  return { joints, tips };
}

/** How high the wrist of a front leg stands, metres. */
const PAW = 0.06;

/** A body whose legs have three or four bones over the foot, as hoofed ones do: bent at the hock, and at the fetlock below it. */
export function hoofed(shape: Shape, bones: 3 | 4): Shape {
  const body = new Rebuild(shape);
  for (const side of ['left', 'right']) {
    body.divide(`${side}.foot`, `${side}.hock`, bones === 3 ? 0.55 : 0.5).shift(`${side}.hock`, [0, 0, -0.06]);
    if (bones === 3) body.shift(`${side}.foot`, [0, 0, 0.06]);
    else body.divide(`${side}.foot`, `${side}.fetlock`, 0.6).shift(`${side}.fetlock`, [0, 0, 0.01]).shift(`${side}.foot`, [0, 0, 0.05]);
  }
  return body.shape();
}

/** Changes a shape's joints by role; parents are given by role, so that joints may come and go. */
export class Rebuild {
  private readonly tips: Shape['tips'];
  private readonly joints: { role: string; parent: string | undefined; offset: V }[];

  constructor(shape: Shape) {
    this.tips = shape.tips;
    this.joints = shape.joints.map(({ role, parent, offset }) => ({
      role,
      parent: parent < 0 ? undefined : shape.joints[parent].role,
      offset,
    }));
  }

  add(role: string, parent: string | undefined, offset: V): this {
    this.joints.push({ role, parent, offset });
    return this;
  }

  move(role: string, parent: string, offset?: V): this {
    const joint = this.joints.find((j) => j.role === role)!;
    joint.parent = parent;
    if (offset) joint.offset = offset;
    return this;
  }

  /** Puts a new joint between a joint and its parent, the bone divided at a share. */
  divide(role: string, between: string, share: number): this {
    const joint = this.joints.find((j) => j.role === role)!;
    const [x, y, z] = joint.offset;
    this.joints.push({ role: between, parent: joint.parent, offset: [x * share, y * share, z * share] });
    joint.parent = between;
    joint.offset = [x * (1 - share), y * (1 - share), z * (1 - share)];
    return this;
  }

  /** Where a joint lies from its parent. */
  offset(role: string): V {
    return this.joints.find((j) => j.role === role)!.offset;
  }

  /** Moves a joint, and all that hangs on it, by some way. */
  shift(role: string, [x, y, z]: V): this {
    const joint = this.joints.find((j) => j.role === role)!;
    joint.offset = [joint.offset[0] + x, joint.offset[1] + y, joint.offset[2] + z];
    return this;
  }

  shape(): Shape {
    const order: ShapeJoint[] = [];
    const index = new Map<string, number>();
    const visit = (parent: string | undefined): void => {
      for (const joint of this.joints.filter((j) => j.parent === parent)) {
        index.set(
          joint.role,
          order.push({ role: joint.role, parent: parent === undefined ? -1 : index.get(parent)!, offset: joint.offset }) - 1,
        );
        visit(joint.role);
      }
    };
    visit(undefined);
    const tips = [...this.tips].filter(([role]) => index.has(role));
    return { joints: order, tips: new Map(tips) };
  }
}
