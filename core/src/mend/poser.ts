import type { Clip } from '../clip';
import { invMul, mul, normalize, unrotate, type Numbers } from '../math/quat';
import type { Rig } from '../rig';
import { emptyPose, forward, withAncestors, type Pose } from '../skeleton';

/** A copy of a clip whose frames are posed, turned in the world, and written back. */
export class Poser {
  readonly pose: Pose;
  readonly clip: Clip;
  private readonly translations: Float64Array;
  /** Those that are posed: all of them, and by each joint those from it on. */
  private readonly from: readonly Int32Array[];
  private readonly carrier: Clip['moves'][number] | undefined;
  private readonly q = new Float64Array(4);
  private readonly v = new Float64Array(3);
  private frame = -1;

  /** @param joints those whose places or turns are asked for; what stands above them is posed too */
  constructor(
    private readonly rig: Pick<Rig, 'skeleton' | 'roles'>,
    source: Clip,
    joints: Iterable<number>,
  ) {
    const { skeleton, roles } = rig;
    const posed = withAncestors(skeleton.parents, joints);
    this.from = skeleton.names.map((_, j) => posed.filter((other) => other >= j));
    this.pose = emptyPose(skeleton);
    this.translations = skeleton.restT.slice();
    this.clip = {
      ...source,
      rotations: source.rotations.slice(),
      moves: source.moves.map(({ joint, values }) => ({ joint, values: values.slice() })),
    };
    let carrier = roles.get('hips') ?? -1;
    while (carrier >= 0 && !this.clip.moves.some(({ joint }) => joint === carrier)) carrier = skeleton.parents[carrier];
    this.carrier = this.clip.moves.find(({ joint }) => joint === carrier);
  }

  /** Poses a frame as it stands now. */
  at(frame: number): Pose {
    this.frame = frame;
    for (const { joint, values } of this.clip.moves) {
      for (let c = 0; c < 3; c++) this.translations[joint * 3 + c] = values[frame * 3 + c];
    }
    this.refresh(0);
    return this.pose;
  }

  /** Turns a joint, and with it what hangs on it, by a rotation of the world. */
  turn(joint: number, turn: Numbers): void {
    const {
      q,
      pose,
      rig: { skeleton },
    } = this;
    const parent = skeleton.parents[joint];
    mul(q, 0, turn, 0, pose.rotations, joint * 4);
    if (parent >= 0) invMul(q, 0, pose.rotations, parent * 4, q, 0);
    this.put(joint, q);
  }

  /** Gives a joint a rotation in the world. */
  lay(joint: number, rotation: Numbers, o: number): void {
    const {
      q,
      pose,
      rig: { skeleton },
    } = this;
    const parent = skeleton.parents[joint];
    if (parent >= 0) invMul(q, 0, pose.rotations, parent * 4, rotation, o);
    else for (let c = 0; c < 4; c++) q[c] = rotation[o + c];
    this.put(joint, q);
  }

  /** Writes a joint's rotation in its parent's frame at any frame; a pose that is asked for is posed again. */
  write(frame: number, joint: number, local: Numbers): void {
    const o = (frame * this.rig.skeleton.parents.length + joint) * 4;
    const { rotations } = this.clip;
    normalize(local, 0);
    // The sign that it had: rotations are continuous in it along time.
    let dot = 0;
    for (let c = 0; c < 4; c++) dot += local[c] * rotations[o + c];
    for (let c = 0; c < 4; c++) rotations[o + c] = dot < 0 ? -local[c] : local[c];
  }

  private put(joint: number, local: Numbers): void {
    this.write(this.frame, joint, local);
    this.refresh(joint);
  }

  /** Moves the joint that carries the body by a way in the world, metres. */
  move(way: Numbers): void {
    const { carrier, v } = this;
    if (!carrier) return;
    const parent = this.rig.skeleton.parents[carrier.joint];
    if (parent >= 0) unrotate(v, 0, this.pose.rotations, parent * 4, way, 0);
    else for (let c = 0; c < 3; c++) v[c] = way[c];
    for (let c = 0; c < 3; c++) {
      const i = this.frame * 3 + c;
      carrier.values[i] += v[c];
      this.translations[carrier.joint * 3 + c] = carrier.values[i];
    }
    this.refresh(carrier.joint);
  }

  private refresh(from: number): void {
    const { translations, clip } = this;
    const { parents } = this.rig.skeleton;
    forward(this.pose, parents, translations, clip.rotations, this.frame * parents.length * 4, this.from[from]);
  }
}
