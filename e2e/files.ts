import type { Page } from './app';
import { writeBvh, type BvhLayout } from '@hollow-stride/core';
import { animatedGlb, makeFile, plainName, randomShape, walk, type ShapeOptions } from '@hollow-stride/core/testing/index';
import { makeGlb } from '@hollow-stride/core/testing/glb';

export interface TestFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** A take of a made-up performer, in centimetres, Z up, with a prefix on each name. */
export function takeFile(name: string, seed: number, frames = 180, more: ShapeOptions = {}, prefix = ''): TestFile {
  const shape = randomShape(seed, { spine: 2, neck: 1, clavicles: true, ...more });
  const file = makeFile(shape, { metres: 0.01, names: (role) => prefix + plainName(role) }, walk(shape, { seed, frames }));
  return { name, bytes: writeBvh(file.skeleton, file.clips[0], file.layout as BvhLayout) };
}

/** A character of other proportions, as GLB under a scaled node. */
export async function characterFile(name: string, seed: number): Promise<TestFile> {
  const shape = randomShape(seed, { spine: 4, neck: 2, clavicles: true, spread: [0.6, 1.6] });
  return { name, bytes: await makeGlb(makeFile(shape, { axes: seed }).skeleton, { scale: 100 }) };
}

/** A skeleton with many short motions, each of which is a take. */
export async function animatedFile(name: string, seed: number, count: number, word: string): Promise<TestFile> {
  const animations = Array.from({ length: count }, (_, i) => ({ name: `${word} ${i + 1}`, times: [0, 0.1, 0.2] }));
  return { name, bytes: await animatedGlb(seed, animations) };
}

/** Drops files onto the page as a person does from a file manager. */
export async function drop(page: Page, ...files: readonly TestFile[]): Promise<void> {
  const carried = files.map(({ name, bytes }) => ({ name, text: Buffer.from(bytes).toString('base64') }));
  await page.evaluate((list) => {
    const data = new DataTransfer();
    for (const { name, text } of list) data.items.add(new File([Uint8Array.from(atob(text), (c) => c.charCodeAt(0))], name));
    for (const type of ['dragover', 'drop'])
      window.dispatchEvent(new DragEvent(type, { dataTransfer: data, bubbles: true, cancelable: true }));
  }, carried);
}
