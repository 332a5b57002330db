import { writeBvh, writeMotion, makeBasis, packGltf, joinAcclaim, readMotionFile, FaultError, type BvhLayout } from '@hollow-stride/core';
import { makeFile, makeGlb, randomShape, walk, writeAcclaim } from '@hollow-stride/core/testing/index';
import { readFacts } from '../facts';
import { animatedGlb } from '@hollow-stride/core/testing/index';

/** A whole file from which broken ones are made. */
export interface Seed {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** One small file of each format. */
export async function seeds(): Promise<Seed[]> {
  const shape = randomShape(3, { spine: 2, neck: 1, clavicles: true });
  const file = makeFile(shape, { metres: 0.01 }, walk(shape, { frames: 6 }));
  const bvh = writeBvh(file.skeleton, file.clips[0], file.layout as BvhLayout);
  const { asf, amc } = writeAcclaim(shape, walk(shape, { frames: 3 }), 1);
  const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
  const skinned = await makeGlb(makeFile(shape).skeleton, { sheath: true });
  const animated = await animatedGlb(3, [{ name: 'sway', times: [0, 0.1, 0.2, 0.3] }]);
  const body = await readMotionFile(skinned, 'body.glb');
  const both = writeMotion(
    body,
    makeBasis(1, '+Y'),
    {
      name: 'still',
      frameTime: 1 / 30,
      frames: 2,
      rotations: new Float32Array([...body.skeleton.restR, ...body.skeleton.restR]),
      moves: [],
    },
    'glb',
  );
  const document = bytes(
    JSON.stringify({
      asset: { version: '2.0' },
      nodes: [{ name: 'a', children: [1] }, { name: 'b' }],
      skins: [{ joints: [0, 1] }],
      buffers: [{ byteLength: 4, uri: 'a.bin' }],
    }),
  );
  return [
    { name: 'take.bvh', bytes: bvh },
    { name: 'body.glb', bytes: skinned },
    { name: 'sway.glb', bytes: animated },
    { name: 'both.glb', bytes: both },
    { name: 'troupe.amc', bytes: joinAcclaim(bytes(asf), bytes(amc)) },
    { name: 'troupe.asf', bytes: bytes(asf) },
    { name: 'packed.glb', bytes: packGltf(document, 'a.gltf', () => new Uint8Array(4)) },
    { name: 'plain.gltf', bytes: document },
  ];
}

const WORDS = [
  '1e39',
  '-1e-310',
  'NaN',
  'Infinity',
  '-0',
  '4294967296',
  '1e400',
  '""',
  'null',
  '{',
  '}',
  '[',
  '-1',
  '0',
  '999999999',
  '\\u0000',
  '\\ud800',
  '\n',
  ':',
  'MOTION',
  'JOINT',
  ',',
];

/** A broken copy of a file: some bytes changed, cut, doubled, or a number or word put in another's place. */
export function mutate({ bytes, name }: Seed, random: () => number): Uint8Array {
  if (/\.glb$/.test(name) && random() < 0.6) return mutateDocument(bytes, random);
  let out = Uint8Array.from(bytes);
  const times = 1 + Math.floor(random() * 4);
  for (let i = 0; i < times; i++) {
    const at = Math.floor(random() * out.length);
    const length = 1 + Math.floor(random() ** 3 * 200);
    const kind = Math.floor(random() * 7);
    if (out.length === 0) break;
    if (kind === 0) out[at] = Math.floor(random() * 256);
    else if (kind === 1) out[at] ^= 1 << Math.floor(random() * 8);
    else if (kind === 2) out = out.slice(0, at);
    else if (kind === 3) out = joined(out.slice(0, at), out.slice(at + length));
    else if (kind === 4) out = joined(out.slice(0, at), out.slice(at, at + length), out.slice(at));
    else if (kind === 5) out = joined(out.slice(0, at), word(random), out.slice(at + Math.floor(random() * 8)));
    else if (at + 4 <= out.length)
      new DataView(out.buffer).setUint32(at, random() < 0.5 ? 0xffffffff : Math.floor(random() * 70_000), true);
  }
  return out;
}

const VALUES: readonly unknown[] = [
  -1,
  0,
  1,
  3,
  1e9,
  1e39,
  2 ** 32,
  0.5,
  null,
  '',
  'x'.repeat(500),
  [],
  {},
  true,
  [NaN],
  '\ud800\u0000',
  [0, 0, 0, 0],
];

/** A GLB file whose document has values that it should not have; the container stays whole, so that they are met. */
function mutateDocument(bytes: Uint8Array, random: () => number): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as unknown;
  const times = 1 + Math.floor(random() * 3);
  for (let i = 0; i < times; i++) {
    let at = json as Record<string, unknown>;
    for (;;) {
      const keys = Object.keys(at);
      if (keys.length === 0) break;
      const key = keys[Math.floor(random() * keys.length)];
      const value = at[key];
      if (typeof value === 'object' && value !== null && random() < 0.85) {
        at = value as Record<string, unknown>;
        continue;
      }
      const kind = random();
      if (kind < 0.2) Reflect.deleteProperty(at, key);
      else if (kind < 0.5 && typeof value === 'number') at[key] = value + Math.floor(random() * 7) - 3;
      else at[key] = structuredClone(VALUES[Math.floor(random() * VALUES.length)]);
      break;
    }
  }
  const text = new TextEncoder().encode(JSON.stringify(json));
  const padded = joined(text, new Uint8Array((4 - (text.length % 4)) % 4).fill(0x20));
  const out = joined(bytes.slice(0, 20), padded, bytes.slice(20 + length));
  const head = new DataView(out.buffer);
  head.setUint32(8, out.length, true);
  head.setUint32(12, padded.length, true);
  return out;
}

const word = (random: () => number): Uint8Array => new TextEncoder().encode(WORDS[Math.floor(random() * WORDS.length)]);

function joined(...parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

/** Outcome of a broken file: taken with facts that the contract accepts, refused with a reason, or a defect of ours. */
export async function outcomeOf(bytes: Uint8Array, name: string): Promise<'taken' | 'refused' | { readonly defect: unknown }> {
  try {
    await readFacts(bytes, name);
    return 'taken';
  } catch (error) {
    // Unforeseen errors come as a cause; the contract must accept whatever the readers accept.
    const isOurs =
      !(error instanceof FaultError) || error.cause !== undefined || error.fault.message.includes('what is in the file cannot be kept');
    return isOurs ? { defect: error instanceof FaultError ? (error.cause ?? error) : error } : 'refused';
  }
}
