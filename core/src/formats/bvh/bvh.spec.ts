import * as fc from 'fast-check';
import { clipToBasis } from '../../clip';
import { ClipReader } from '../../clip';
import { FaultError, type Fault } from '../../errors';
import { random } from '../../math/random';
import { makeFile, randomShape, walk } from '../../testing';
import { makeBasis } from '../../skeleton';
import { readMotionFile, writeMotion, type MotionFile } from '..';
import type { BvhLayout } from './layout';
import { readBvh } from './read';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

function bvh(options: { channels?: string; rows?: string[]; frames?: string; name?: string; tail?: string } = {}): string {
  const {
    channels = 'CHANNELS 3 Zrotation Xrotation Yrotation',
    rows = ['0 90 0 0 0 0 10 20 30', '1 91 2 5 0 0 0 0 0'],
    frames,
    name = 'knee',
    tail = '',
  } = options;
  return `HIERARCHY
ROOT hips
{
  OFFSET 0 0 0
  CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
  JOINT ${name}
  {
    OFFSET 0 -40 0
    ${channels}
    End Site
    {
      OFFSET 0 -40 5
    }
  }
}
MOTION
Frames: ${frames ?? rows.length}
Frame Time: 0.01
${rows.join('\n')}
${tail}`;
}

function faultOf(text: string): Fault {
  try {
    readBvh(bytes(text), 'take.bvh');
  } catch (error) {
    if (error instanceof FaultError) return error.fault;
    throw error;
  }
  throw new Error('no fault');
}

describe('reading BVH', () => {
  it('reads joints, tips, channels and frames', () => {
    const file = readBvh(bytes(bvh()), 'take.bvh');
    expect(file.skeleton.names).toEqual(['hips', 'knee']);
    expect([...file.skeleton.tips.slice(3)]).toEqual([0, -40, 5]);
    expect(file.clips[0].frames).toBe(2);
    expect(file.clips[0].frameTime).toBe(0.01);
    expect(file.warnings).toEqual([]);
    const reader = new ClipReader(file.skeleton, file.clips[0]);
    expect([...reader.at(1).positions.slice(0, 3)]).toEqual([1, 91, 2]);
    // A turn of 5° about Z swings the knee to +X.
    expect(reader.at(1).positions[3]).toBeCloseTo(1 + 40 * Math.sin((5 * Math.PI) / 180), 5);
  });

  it('takes CRLF, lone CR, tabs, a byte-order mark, small keywords and odd spacing alike', () => {
    const reference = readBvh(bytes(bvh()), 'take.bvh');
    const variants = [
      bvh().replace(/\n/g, '\r\n'),
      bvh().replace(/\n/g, '\r'),
      bvh().replace(/ +/g, '\t'),
      `\uFEFF${bvh()}`,
      bvh().replace(/HIERARCHY|ROOT|JOINT|OFFSET|CHANNELS|MOTION|End Site/g, (w) => w.toLowerCase()),
      bvh().replace(/\n\s*\{/g, ' {'),
      bvh().replace('Frames: 2', 'Frames:2').replace('Frame Time: 0.01', 'Frame Time:\t1e-2'),
    ];
    for (const text of variants) {
      const file = readBvh(bytes(text), 'take.bvh');
      expect(file.clips[0].rotations).toEqual(reference.clips[0].rotations);
      expect(file.skeleton.names).toEqual(reference.skeleton.names);
    }
  });

  it('keeps names with spaces and prefixes', () => {
    expect(readBvh(bytes(bvh({ name: 'actor:Left  Knee' })), 'a').skeleton.names[1]).toBe('actor:Left  Knee');
  });

  it('takes joints with one channel, with none, and positions on any joint', () => {
    const one = readBvh(bytes(bvh({ channels: 'CHANNELS 1 Xrotation', rows: ['0 0 0 0 0 0 90'] })), 'a');
    expect(new ClipReader(one.skeleton, one.clips[0]).pose.positions.length).toBe(6);
    const none = readBvh(bytes(bvh({ channels: 'CHANNELS 0', rows: ['0 0 0 0 0 0'] })), 'a');
    expect(none.clips[0].frames).toBe(1);
    const moved = readBvh(bytes(bvh({ channels: 'CHANNELS 3 Xposition Yposition Zposition', rows: ['0 0 0 0 0 0 1 -41 2'] })), 'a');
    expect([...new ClipReader(moved.skeleton, moved.clips[0]).at(0).positions.slice(3)]).toEqual([1, -41, 2]);
    const added = readBvh(bytes(bvh({ channels: 'CHANNELS 3 Xposition Yposition Zposition', rows: ['0 0 0 0 0 0 1 -1 2'] })), 'a');
    expect([...new ClipReader(added.skeleton, added.clips[0]).at(0).positions.slice(3)]).toEqual([1, -41, 2]);
  });

  it('warns and goes on where frames are fewer or more than said, or the last is cut', () => {
    const fewer = readBvh(bytes(bvh({ frames: '9' })), 'a');
    expect([fewer.clips[0].frames, fewer.warnings[0].code]).toEqual([2, 'bvh/frame-count']);
    const more = readBvh(bytes(bvh({ frames: '1' })), 'a');
    expect([more.clips[0].frames, more.warnings[0].message]).toEqual([1, jasmine.stringContaining('holds 2')] as never);
    const cut = readBvh(bytes(bvh({ rows: ['0 90 0 0 0 0 1 2 3', '0 90 0'] })), 'a');
    expect([cut.clips[0].frames, cut.warnings[0].where.frame]).toEqual([1, 2]);
  });

  it('says line, joint and frame of what it cannot read', () => {
    expect(faultOf('')).toEqual(jasmine.objectContaining({ code: 'file/empty' }));
    expect(faultOf('hello').where.line).toBe(1);
    expect(faultOf(bvh({ rows: ['0 90 0 0 0 0 1 2 3', '0 90 0 0 0 0 1 nan 3'] }))).toEqual(
      jasmine.objectContaining({ code: 'bvh/number', where: { file: 'take.bvh', line: 20, joint: 'knee', frame: 2 } }),
    );
    expect(faultOf(bvh({ rows: ['0 90 0 0 0 0 1 2 3', '0 90 0 0 0 0 1', '0 90 0 0 0 0 1 2 3'] }))).toEqual(
      jasmine.objectContaining({ where: { file: 'take.bvh', line: 20, frame: 2 } }),
    );
    expect(faultOf(bvh({ channels: 'CHANNELS 3 Zrotation Zrotation Yrotation' })).where.joint).toBe('knee');
    expect(faultOf(bvh({ channels: 'CHANNELS 3 Zrotation Wrotation Yrotation' })).message).toContain('Wrotation');
    expect(faultOf(bvh().slice(0, 120)).code).toBe('bvh/truncated');
    expect(faultOf(bvh().split('MOTION')[0]).code).toBe('bvh/truncated');
    expect(faultOf(bvh({ frames: '2000000' })).code).toBe('clip/limit');
    expect(faultOf(bvh().replace('OFFSET 0 -40 0', 'OFFSET 0 x 0')).where.line).toBe(8);
  });

  it('refuses a hundred thousand joints at once', () => {
    const deep = `HIERARCHY\nROOT a\n{\nOFFSET 0 0 0\nCHANNELS 0\n${Array.from({ length: 100_000 }, (_, i) => `JOINT j${i}\n{\nOFFSET 0 1 0\nCHANNELS 0\n`).join('')}`;
    expect(faultOf(deep).code).toBe('skeleton/limit');
    // At the first joint too many, and not when all are read.
    expect(faultOf(deep).where.line).toBeLessThan(100_000);
  });

  it('answers any damage with a fault or a usable file, never otherwise', () => {
    const good = bytes(bvh());
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 1, max: 12 }), (seed, hits) => {
        const rng = random(seed);
        let text = good.slice();
        for (let i = 0; i < hits; i++) {
          const at = rng.integer(0, text.length - 1);
          const kind = rng.integer(0, 3);
          if (kind === 0) text[at] = rng.integer(0, 255);
          else if (kind === 1) text = text.slice(0, Math.max(1, at));
          else if (kind === 2) text = Uint8Array.from([...text.slice(0, at), ...text.slice(at + rng.integer(1, 30))]);
          else text = Uint8Array.from([...text.slice(0, at), ...text.slice(rng.integer(0, at), at), ...text.slice(at)]);
          if (text.length === 0) text = Uint8Array.of(72);
        }
        try {
          const file = readBvh(text, 'damaged.bvh');
          for (const clip of file.clips) expect(clip.rotations.every(Number.isFinite)).toBeTrue();
        } catch (error) {
          expect(error).toBeInstanceOf(FaultError);
        }
      }),
      { numRuns: 400, seed: 1 },
    );
  });
});

describe('writing BVH', () => {
  const orders = [
    [3, 4, 5],
    [3, 5, 4],
    [4, 3, 5],
    [4, 5, 3],
    [5, 3, 4],
    [5, 4, 3],
  ];

  async function again(file: MotionFile): Promise<MotionFile> {
    return readMotionFile(writeMotion(file, makeBasis(1, '+Y'), file.clips[0], 'bvh'), 'again.bvh');
  }

  it('gives back the same motion within 0.1 mm in every channel order', async () => {
    for (const order of orders) {
      const shape = randomShape(4);
      const made = makeFile(shape, {}, walk(shape, { seed: 4, frames: 60 }));
      const file: MotionFile = {
        ...made,
        layout: { ...made.layout, channels: shape.joints.map(({ parent }) => (parent < 0 ? [0, 1, 2, ...order] : order)) } as never,
      };
      const back = await again(file);
      const a = new ClipReader(file.skeleton, file.clips[0]);
      const b = new ClipReader(back.skeleton, back.clips[0]);
      for (let f = 0; f < 60; f += 9) {
        const [from, to] = [a.at(f).positions, b.at(f).positions];
        // Nested blocks list joints depth first, whatever order they were made in.
        back.skeleton.names.forEach((name, j) => {
          const k = file.skeleton.names.indexOf(name);
          for (let c = 0; c < 3; c++) expect(to[j * 3 + c]).toBeCloseTo(from[k * 3 + c], 4);
        });
      }
      expect((back.layout as BvhLayout).channels.slice(1).every((list) => list.join() === order.join())).toBeTrue();
    }
  });

  it('writes angles that do not jump, straight through gimbal lock', async () => {
    const rows = Array.from({ length: 60 }, (_, f) => `0 0 0 0 ${f * 6} 0 ${f * 5} ${f * 6} ${f * 3}`);
    const file = readBvh(bytes(bvh({ rows })), 'a');
    const text = new TextDecoder().decode(writeMotion(file, makeBasis(1, '+Y'), file.clips[0], 'bvh'));
    const written = text
      .split('Frame Time')[1]
      .split('\n')
      .slice(1, 61)
      .map((row) => row.trim().split(' ').map(Number));
    for (let f = 1; f < written.length; f++) {
      written[f].forEach((value, c) => expect(Math.abs(value - written[f - 1][c])).toBeLessThan(60));
    }
  });

  it('undoes the common basis', async () => {
    const shape = randomShape(8);
    const file = makeFile(shape, { metres: 0.01, up: '+Z' }, walk(shape, { seed: 8, frames: 20 }));
    const basis = makeBasis(0.01, '+Z');
    const ours = clipToBasis(file.skeleton, file.clips[0], basis);
    // A rest rotation at the root, as another up axis gives, is no part of BVH: only the motion is compared.
    const back = readBvh(writeMotion(file, basis, ours, 'bvh'), 'b');
    expect(back.clips[0].moves[0].values[1]).toBeCloseTo(file.clips[0].moves[0].values[1], 3);
  });
});
