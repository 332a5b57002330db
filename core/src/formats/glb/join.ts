import { fail } from '../../errors';
import { readContainer, writeContainer } from './container';

interface Loose {
  accessors?: { bufferView?: number; [key: string]: unknown }[];
  bufferViews?: { byteOffset?: number; byteLength: number; [key: string]: unknown }[];
  buffers?: { byteLength: number }[];
  animations?: { samplers: { input: number; output: number; [key: string]: unknown }[]; [key: string]: unknown }[];
}

/**
 * The files of one character, each with one motion written behind what was there, as one file with all of those motions: the last
 * animation of each later file, with its numbers, is put behind those of the first.
 * @throws FaultError option for no file, and for one without a motion
 */
export function joinMotions(files: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const [first, ...others] = files;
  if (first === undefined) fail('option', 'there is no motion to be joined');
  const { json, bin = new Uint8Array(0) } = readContainer(first);
  const whole = JSON.parse(JSON.stringify(json)) as Loose;
  const blocks: Uint8Array[] = [bin];
  let length = bin.length;
  const pad = (): void => {
    const missing = (4 - (length % 4)) % 4;
    if (missing > 0) blocks.push(new Uint8Array(missing));
    length += missing;
  };
  for (const file of others) {
    const { json: more, bin: numbers = new Uint8Array(0) } = readContainer(file);
    const { animations = [], accessors = [], bufferViews = [] } = more as Loose;
    const animation = animations.at(-1);
    if (!animation) fail('option', 'one of the files to be joined holds no motion');
    const moved = new Map<number, number>();
    const take = (index: number): number => {
      const known = moved.get(index);
      if (known !== undefined) return known;
      const { bufferView, ...accessor } = accessors[index];
      const view = bufferViews[bufferView!];
      pad();
      const start = view.byteOffset ?? 0;
      blocks.push(numbers.subarray(start, start + view.byteLength));
      const at = (whole.bufferViews ??= []).push({ ...view, byteOffset: length }) - 1;
      length += view.byteLength;
      const made = (whole.accessors ??= []).push({ ...accessor, bufferView: at }) - 1;
      moved.set(index, made);
      return made;
    };
    const samplers = animation.samplers.map((sampler) => ({ ...sampler, input: take(sampler.input), output: take(sampler.output) }));
    (whole.animations ??= []).push({ ...animation, samplers });
  }
  const joined = new Uint8Array(length);
  let at = 0;
  for (const block of blocks) {
    joined.set(block, at);
    at += block.length;
  }
  (whole.buffers ??= [{ byteLength: 0 }])[0].byteLength = length;
  return writeContainer(whole, joined);
}
