/** Reads BVH by plain matrices and nothing of the core: what is delivered must mean the same to any reader. */
type Matrix = readonly number[];

interface Node {
  readonly name: string;
  readonly parent: number;
  readonly offset: readonly number[];
  readonly channels: readonly string[];
}

export interface PlainMotion {
  readonly frames: number;
  readonly frameTime: number;
  /** Where a joint is in a frame, in the file's own unit. */
  place(joint: string, frame: number): readonly [number, number, number];
}

export function readPlainBvh(bytes: Uint8Array): PlainMotion {
  const words = new TextDecoder().decode(bytes).split(/\s+/).filter(Boolean);
  const nodes: Node[] = [];
  const open: number[] = [];
  let i = 0;
  for (; words[i] !== 'MOTION'; i++) {
    if (words[i] === 'ROOT' || words[i] === 'JOINT') {
      const channels = words.indexOf('CHANNELS', i);
      const count = Number(words[channels + 1]);
      nodes.push({
        name: words[i + 1],
        parent: open.at(-1) ?? -1,
        offset: words.slice(i + 4, i + 7).map(Number),
        channels: words.slice(channels + 2, channels + 2 + count),
      });
      open.push(nodes.length - 1);
      i = channels + 1 + count;
    } else if (words[i] === 'End') i = words.indexOf('}', i);
    else if (words[i] === '}') open.pop();
  }
  const frames = Number(words[i + 2]);
  const frameTime = Number(words[i + 5]);
  const numbers = words.slice(i + 6).map(Number);
  const width = nodes.reduce((sum, { channels }) => sum + channels.length, 0);

  const worlds = (frame: number): Matrix[] => {
    let at = frame * width;
    const out: Matrix[] = [];
    for (const { parent, offset, channels } of nodes) {
      let local: Matrix = moved(offset);
      const place = [...offset];
      for (const channel of channels) {
        const value = numbers[at++];
        const axis = 'XYZ'.indexOf(channel[0]);
        if (channel.endsWith('position')) {
          place[axis] = value;
          local = moved(place);
        } else local = times(local, turned(axis, (value * Math.PI) / 180));
      }
      out.push(parent < 0 ? local : times(out[parent], local));
    }
    return out;
  };
  return {
    frames,
    frameTime,
    place: (joint, frame) => {
      const m = worlds(frame)[nodes.findIndex(({ name }) => name === joint)];
      return [m[3], m[7], m[11]];
    },
  };
}

const moved = ([x, y, z]: readonly number[]): Matrix => [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z];

function turned(axis: number, angle: number): Matrix {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const m = [...moved([0, 0, 0])];
  const [a, b] = [(axis + 1) % 3, (axis + 2) % 3];
  m[a * 4 + a] = c;
  m[a * 4 + b] = -s;
  m[b * 4 + a] = s;
  m[b * 4 + b] = c;
  return m;
}

function times(a: Matrix, b: Matrix): Matrix {
  const out: number[] = [];
  for (let r = 0; r < 3; r++) {
    for (let c = 0; c < 4; c++) {
      let sum = c === 3 ? a[r * 4 + 3] : 0;
      for (let k = 0; k < 3; k++) sum += a[r * 4 + k] * b[k * 4 + c];
      out.push(sum);
    }
  }
  return out;
}
