import { type Clip, makeContinuous, type Track } from '../../clip';
import { identity, normalize } from '../../math/quat';
import { cos, DEG, sin } from '../../math/trig';
import type { BvhHierarchy } from './hierarchy';
import type { RowTaker } from './samples';
import { square } from '../../math/numbers';

/** Makes rotations and translations of rows of channel values. */
export class RowReader implements RowTaker {
  /** By joint, 1 where its position channels add to its OFFSET. */
  readonly fromOffset: Uint8Array;
  private rotations = new Float32Array(0);
  /** By joint; undefined for those without position channels. */
  private tracks: (Float32Array | undefined)[] = [];
  private readonly q = new Float64Array(4);

  constructor(private readonly hierarchy: BvhHierarchy) {
    this.fromOffset = new Uint8Array(hierarchy.names.length);
  }

  begin(room: number): void {
    const { channels, names } = this.hierarchy;
    this.rotations = new Float32Array(room * names.length * 4);
    this.tracks = channels.map((list) => (list.some((code) => code < 3) ? new Float32Array(room * 3) : undefined));
  }

  row(frame: number, values: Float64Array): void {
    const { channels, names, offsets } = this.hierarchy;
    const { q, rotations, tracks } = this;
    if (frame === 0) this.readPlaces(values);
    for (let j = 0, at = 0; j < names.length; j++) {
      const list = channels[j];
      const track = tracks[j];
      if (track) {
        for (let c = 0; c < 3; c++) track[frame * 3 + c] = this.fromOffset[j] || !list.includes(c) ? offsets[j * 3 + c] : 0;
      }
      identity(q, 0);
      for (let i = 0; i < list.length; i++) {
        const code = list[i];
        if (code < 3) track![frame * 3 + code] += values[at + i];
        else turnAbout(q, code - 3, values[at + i] * DEG);
      }
      at += list.length;
      normalize(q, 0);
      const o = (frame * names.length + j) * 4;
      rotations[o] = q[0];
      rotations[o + 1] = q[1];
      rotations[o + 2] = q[2];
      rotations[o + 3] = q[3];
    }
  }

  /** The motion of the first frames. */
  motion(frames: number): Pick<Clip, 'rotations' | 'moves'> {
    const joints = this.hierarchy.names.length;
    const rotations = first(this.rotations, frames * joints * 4);
    makeContinuous(rotations, joints);
    const moves = this.tracks.flatMap((track, joint): Track[] => (track ? [{ joint, values: first(track, frames * 3) }] : []));
    return { rotations, moves };
  }

  /**
   * Writers differ on whether position channels replace OFFSET or add to it. They replace it when the first frame
   * lies nearer to the OFFSET than to zero; with an OFFSET of zero both mean the same.
   */
  private readPlaces(values: Float64Array): void {
    const { channels, offsets } = this.hierarchy;
    let column = 0;
    channels.forEach((list, j) => {
      let toOffset = 0;
      let toZero = 0;
      list.forEach((code, i) => {
        if (code > 2) return;
        const v = values[column + i];
        toOffset += square(v - offsets[j * 3 + code]);
        toZero += v * v;
      });
      this.fromOffset[j] = toOffset > toZero ? 1 : 0;
      column += list.length;
    });
  }
}

/** The first values; an array of their own where there are more. */
function first(values: Float32Array, count: number): Float32Array {
  return values.length === count ? values : values.slice(0, count);
}

/** q = q · the turn about an axis (0, 1 or 2) by an angle in radians. */
function turnAbout(q: Float64Array, axis: number, angle: number): void {
  const s = sin(angle / 2);
  const c = cos(angle / 2);
  const u = axis === 2 ? 0 : axis + 1;
  const v = axis === 0 ? 2 : axis - 1;
  const along = q[axis];
  const a = q[u];
  const b = q[v];
  const w = q[3];
  q[axis] = along * c + w * s;
  q[u] = a * c + b * s;
  q[v] = b * c - a * s;
  q[3] = w * c - along * s;
}
