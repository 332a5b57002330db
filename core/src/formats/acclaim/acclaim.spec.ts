import * as fc from 'fast-check';
import { clipOf, prepareRig } from '../../rig';
import { ClipReader } from '../../clip';
import { asFault } from '../../errors';
import { joinAcclaim, readAcclaim, readMotionFile, writeMotion } from '..';
import { positionsOf, randomShape, walk, writeAcclaim } from '../../testing';

const shape = randomShape(15, { clavicles: true, spine: 3, neck: 1, fingers: 2 });
const motion = walk(shape, { seed: 3, frames: 30 });
const { asf, amc } = writeAcclaim(shape, motion, 7);
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const whole = joinAcclaim(bytes(asf), bytes(amc));
const message = async (content: Uint8Array): Promise<string> =>
  readMotionFile(content, 'x.amc').then(
    () => 'read',
    (error: unknown) => `${asFault(error).where.line ?? ''} ${asFault(error).message}`,
  );

describe('Acclaim recordings', () => {
  it('stand and move as the body that was recorded, whatever axes each bone has', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1000 }), async (seed) => {
        const text = writeAcclaim(shape, motion, seed);
        const file = await readMotionFile(joinAcclaim(bytes(text.asf), bytes(text.amc)), 'walk.amc');
        const body = prepareRig(file);
        expect([file.format, body.unit.metres.toFixed(4), file.clips[0].frames]).toEqual(['acclaim', '0.0254', 30]);
        const reader = new ClipReader(body.skeleton, clipOf(file, body));
        for (const f of [0, 14, 29]) {
          const p = reader.at(f).positions;
          const truth = positionsOf(shape, motion, f);
          for (const role of ['hips', 'left.hand', 'right.foot', 'head', 'left.index.2']) {
            const j = role === 'hips' ? 0 : file.skeleton.names.indexOf(role.replaceAll('.', '_'));
            const t = shape.joints.findIndex((joint) => joint.role === role);
            const miss = Math.hypot(p[j * 3] - truth[t * 3], p[j * 3 + 1] - truth[t * 3 + 1], p[j * 3 + 2] - truth[t * 3 + 2]);
            expect(miss).withContext(`${role}, frame ${f}`).toBeLessThan(0.001);
          }
        }
      }),
    );
  });

  it('are labelled, and written again as BVH in their own unit', async () => {
    const file = readAcclaim(whole, 'walk.amc');
    const body = prepareRig(file);
    expect(body.labels.missing).toEqual([]);
    const out = await readMotionFile(writeMotion(file, body.basis, clipOf(file, body), 'bvh'), 'out.bvh');
    const a = new ClipReader(file.skeleton, file.clips[0]).at(20).positions.slice();
    const b = new ClipReader(out.skeleton, out.clips[0]).at(20).positions;
    a.forEach((x, i) => expect(b[i]).toBeCloseTo(x, 2));
  });

  it('without motion are a skeleton, and motion without a skeleton says what is missing', async () => {
    expect(readAcclaim(bytes(asf), 'body.asf').clips).toEqual([]);
    expect(await message(bytes(amc))).toContain('bring the .asf file in together with it');
  });

  it('are refused with line, bone and frame', async () => {
    const broken = async (from: RegExp | string, to: string): Promise<string> =>
      message(joinAcclaim(bytes(asf.replace(from, to)), bytes(amc)));
    expect(await broken(/direction [^\n]+/, 'direction a b c')).toMatch(/^\d+ this line needs a number, found "a"/);
    expect(await broken(':hierarchy', ':somewhere')).toContain('no :hierarchy section');
    expect(await broken('name head', 'name skull')).toContain('names a bone that does not exist');
    expect(await message(joinAcclaim(bytes(asf), bytes(amc.replace(/\nhead [^\n]+/, '\nhead 1'))))).toMatch(
      /channels and the frame gives 1 values/,
    );
    expect(await message(joinAcclaim(bytes(asf), bytes(amc.replace('\nhead ', '\nhorn '))))).toContain('does not have');
  });

  it('never hang or crash on broken bytes', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: whole.length - 1 }), fc.integer({ min: 0, max: 255 }), fc.boolean(), (at, byte, cut) => {
        const content = cut ? whole.slice(0, at) : whole.slice();
        if (!cut) content[at] = byte;
        try {
          readAcclaim(content, 'x');
        } catch (error) {
          expect(asFault(error).code).toMatch(/^(acclaim|skeleton|clip|label)\//);
        }
      }),
      { numRuns: 150, seed: 3 },
    );
  });
});
