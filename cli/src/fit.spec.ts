import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseLandmarks, prepareRig, readMotionFile } from '@hollow-stride/core';
import { clayBody, clayObj, clayShape } from '@hollow-stride/core/testing/index';
import { run } from './main';

describe('hollow-stride fit', () => {
  let folder: string;
  let out: string[];
  let err: string[];
  const call = (...args: string[]): Promise<number> => {
    out = [];
    err = [];
    return run(args, { out: (text) => out.push(text), err: (text) => err.push(text) });
  };
  const path = (name: string): string => join(folder, name);
  const body = clayBody(clayShape(3), 0.026);

  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'hollow-stride-fit-'));
    await writeFile(path('clay.obj'), clayObj(body));
  });
  afterAll(() => rm(folder, { recursive: true }));

  it('writes a mesh as a labelled character, and its landmarks, by which the next is fitted', async () => {
    const detail = ['--fingers', '0', '--spine', '4'];
    expect(await call('fit', path('clay.obj'), '--out', path('clay.glb'), '--save-landmarks', path('clay.json'), ...detail))
      .withContext(err.join('\n'))
      .toBe(0);
    expect(out.join('\n')).toContain('joints; in the range check');
    const rig = prepareRig(await readMotionFile(await readFile(path('clay.glb')), 'clay.glb'));
    expect(rig.labels.missing).toEqual([]);
    expect(rig.roles.has('spine.4')).toBeTrue();
    const landmarks = parseLandmarks(await readFile(path('clay.json'), 'utf8'));
    expect(landmarks.detail.spine).toBe(4);
    // The knee of the file is moved: the joint of the next body is where the file says.
    const knee = landmarks.landmarks['left.knee'].map((v, c) => (c === 1 ? v + 0.1 : v)) as [number, number, number];
    await writeFile(path('moved.json'), JSON.stringify({ ...landmarks, landmarks: { ...landmarks.landmarks, 'left.knee': knee } }));
    expect(await call('fit', path('clay.obj'), '--landmarks', path('moved.json'), '--out', path('moved.glb'))).toBe(0);
    const moved = prepareRig(await readMotionFile(await readFile(path('moved.glb')), 'moved.glb'));
    expect(moved.restPose.positions[moved.roles.get('left.lowerLeg')! * 3 + 1]).toBeCloseTo(knee[1], 3);
    expect(moved.roles.has('spine.4')).toBeTrue();
  });

  it('says what is wrong with what it is given', async () => {
    await writeFile(path('bad.obj'), 'v 0 0 0\nf 1 2 3\n');
    expect(await call('fit', path('bad.obj'))).toBe(1);
    expect(err.join()).toContain('bad.obj, line 2');
    expect(await call('fit', path('clay.obj'), '--fingers', '4')).toBe(1);
    expect(err.join()).toContain('--fingers is one of 0, 3, 5');
    expect(await call('fit', path('clay.obj'), '--keep', '--out', path('kept.glb'))).toBe(1);
    expect(err.join()).toContain('no skeleton to keep');
    expect(await call('fit', path('clay.obj'), '--out', path('clay.bvh'))).toBe(1);
  });
});
