/**
 * The most memory that the server holds, and how long /api/health takes, while it takes in large files and small ones that ask
 * for much. Each on a server of its own.
 *
 *   npm run memory
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { type Document, WebIO } from '@gltf-transform/core';
import { writeBvh, type BvhLayout } from '@hollow-stride/core';
import { makeFile, makeGlb, randomShape, walk, writeAcclaim } from '@hollow-stride/core/testing/index';
import { strToU8, zipSync } from 'fflate';
import { animatedGlb } from '@hollow-stride/core/testing/index';
import { Answers, print, Program } from './serve';

const SHAPE = randomShape(1, { spine: 3, neck: 1, clavicles: true, fingers: 3 });

const CASES: readonly (readonly [what: string, name: string, make: () => Promise<Uint8Array> | Uint8Array])[] = [
  ['a take of 100 MB', 'long.bvh', longTake],
  ['a character of 90 MB', 'large.glb', largeCharacter],
  [
    'sixty animations of three keys up to 16,000 s',
    'sparse.glb',
    () =>
      animatedGlb(
        1,
        Array.from({ length: 60 }, (_, i) => ({ name: `a${i}`, times: [0, 8000, 16_000] })),
      ),
  ],
  ['a document that names a 20 MB buffer 150 times', 'buffers.zip', manyBuffers],
  ['a 20 MB skeleton text and 150 motions', 'motions.zip', manyMotions],
  ['an archive of 400,000 empty folders', 'folders.zip', () => folders(400_000)],
  ['an archive of 60,000 empty folders', 'folders.zip', () => folders(60_000)],
];

for (const [what, name, make] of CASES) {
  const content = await make();
  const data = mkdtempSync(join(tmpdir(), 'hollow-stride-memory-'));
  const program = await Program.start(data);
  program.resetPeak();
  const before = program.peak();
  // Sent by a thread of its own: what sending costs here must not look like a slow answer.
  const path = join(data, name);
  writeFileSync(path, content);
  const answers = new Answers(() => program.base);
  const began = performance.now();
  const files = await answers.during(sent(program.base, path, name));
  const taken = files.filter(({ error }) => !error).length;
  const said = files.find(({ error }) => error)?.error?.message;
  print(
    `${what} (${(content.length / 1e6).toFixed(1)} MB): peak ${program.peak().toFixed(0)} MB (at rest ${before.toFixed(0)}), ${answers}, ${((performance.now() - began) / 1000).toFixed(1)} s; ${taken} taken in${said ? `; "${said}"` : ''}`,
  );
  await program.kill('SIGTERM');
  rmSync(data, { recursive: true });
}

function sent(base: string, path: string, name: string): Promise<Awaited<ReturnType<Program['post']>>> {
  const code = `const { workerData, parentPort } = require('node:worker_threads');
    const form = new FormData();
    form.append('file', new Blob([require('node:fs').readFileSync(workerData.path)]), workerData.name);
    fetch(workerData.base + '/api/files', { method: 'POST', body: form }).then(async (r) => parentPort.postMessage((await r.json()).files));`;
  const worker = new Worker(code, { eval: true, workerData: { base, path, name } });
  return new Promise((resolve, reject) => worker.once('message', resolve).once('error', reject));
}

function longTake(): Uint8Array {
  const one = makeFile(SHAPE, { metres: 0.01 }, walk(SHAPE, { frames: 600 }));
  const text = new TextDecoder().decode(writeBvh(one.skeleton, one.clips[0], one.layout as BvhLayout));
  const at = text.indexOf('Frame Time');
  const body = text.slice(text.indexOf('\n', at) + 1);
  const times = Math.ceil(100e6 / body.length);
  return strToU8(
    text.slice(0, at).replace(/Frames: \d+/, `Frames: ${600 * times}`) + text.slice(at, text.length - body.length) + body.repeat(times),
  );
}

async function largeCharacter(): Promise<Uint8Array> {
  const { skeleton } = makeFile(SHAPE);
  const io = new WebIO();
  const document = await io.readBinary(await makeGlb(skeleton, { sheath: true }));
  // Pictures, as a character's weight mostly is.
  for (let i = 0; i < 9; i++) document.createTexture(`coat ${i}`).setMimeType('image/png').setImage(noise(9_500_000, i));
  for (let i = 0; i < 4; i++) {
    const mesh = document.getRoot().listMeshes()[0];
    mesh.addPrimitive(bulk(document, i).setMaterial(document.createMaterial()));
  }
  return io.writeBinary(document);
}

function bulk(document: Document, seed: number) {
  const buffer = document.getRoot().listBuffers()[0];
  const count = 60_000;
  const accessor = (type: 'VEC3' | 'VEC4', array: Float32Array<ArrayBuffer> | Uint8Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const place = new Float32Array(count * 3).map((_, i) => Math.sin(i * (seed + 1)));
  const joints = new Uint8Array(count * 4);
  const weights = new Float32Array(count * 4).map((_, i) => (i % 4 === 0 ? 1 : 0));
  return document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', place))
    .setAttribute('JOINTS_0', accessor('VEC4', joints))
    .setAttribute('WEIGHTS_0', accessor('VEC4', weights));
}

function noise(bytes: number, seed: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(bytes);
  let state = seed + 1;
  for (let i = 0; i < bytes; i++) out[i] = state = ((Math.imul(state, 1664525) + 1013904223) >>> 24) ^ ((i * 31) & 255);
  return out;
}

function manyBuffers(): Uint8Array {
  const buffers = Array.from({ length: 150 }, () => ({ byteLength: 20_000_000, uri: 'body.bin' }));
  const document = { asset: { version: '2.0' }, buffers, bufferViews: buffers.map((_, buffer) => ({ buffer, byteLength: 20_000_000 })) };
  return zipSync({ 'body.gltf': strToU8(JSON.stringify(document)), 'body.bin': new Uint8Array(20_000_000) }, { level: 9 });
}

function manyMotions(): Uint8Array {
  const shape = randomShape(2, { spine: 2, neck: 1, clavicles: true });
  const { asf, amc } = writeAcclaim(shape, walk(shape, { frames: 3 }), 1);
  const large = `# ${'x'.repeat(20_000_000)}\n${asf}`;
  const motions = Object.fromEntries(Array.from({ length: 150 }, (_, i) => [`body_${i}.amc`, strToU8(`# ${i}\n${amc}`)]));
  return zipSync({ 'body.asf': strToU8(large), ...motions }, { level: 9 });
}

/** A zip of folders only, written by hand: a library would take as long to make it as a careless one takes to read it. */
function folders(count: number): Uint8Array {
  const name = (i: number): Buffer => Buffer.from(`${String(i).padStart(7, '0')}/`);
  const locals: Buffer[] = [];
  const central: Buffer[] = [];
  let at = 0;
  for (let i = 0; i < count; i++) {
    const n = name(i);
    const local = Buffer.alloc(30);
    local.writeUInt32LE(0x04034b50, 0);
    local.writeUInt16LE(20, 4);
    local.writeUInt16LE(n.length, 26);
    const entry = Buffer.alloc(46);
    entry.writeUInt32LE(0x02014b50, 0);
    entry.writeUInt16LE(20, 4);
    entry.writeUInt16LE(20, 6);
    entry.writeUInt16LE(n.length, 28);
    entry.writeUInt32LE(at, 42);
    locals.push(local, n);
    central.push(entry, n);
    at += 30 + n.length;
  }
  const list = Buffer.concat(central);
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  const said = Math.min(count, 0xffff);
  end.writeUInt16LE(said, 8);
  end.writeUInt16LE(said, 10);
  end.writeUInt32LE(list.length, 12);
  end.writeUInt32LE(at, 16);
  return Buffer.concat([...locals, list, end]);
}
