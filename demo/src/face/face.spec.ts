import { validateBytes } from 'gltf-validator';
import {
  clapsHeard,
  clapsSeen,
  DEFAULT_RECIPE,
  findFaceFaults,
  matchClaps,
  readFace,
  readMotionFile,
  readWav,
  runJob,
  type FaceTrack,
  type MotionFile,
} from '@hollow-stride/core';
import { makeRecordings } from '../index';
import { CRIER_LATE } from './crier';
import { production } from '../testing/production';

describe('the Town crier’s face and voice', () => {
  let face: FaceTrack;
  const files = new Map<string, MotionFile>();

  beforeAll(async () => {
    for (const { name, title, bytes } of await production()) {
      if (/crier|Lantern Bearer|Apprentice/.test(title)) files.set(title, await readMotionFile(bytes, name));
    }
    const [{ bytes, name }] = makeRecordings();
    face = await readFace(bytes, name);
  });

  it('have the faults that the recorder made, and no other', () => {
    expect([face.channels.length, 1 / face.frameTime]).toEqual([52, 60]);
    const faults = findFaceFaults(face).filter(({ kind }) => kind !== 'flat');
    expect(faults.map(({ kind, channel, from, to }) => [kind, face.channels[channel] ?? 'all', from, to])).toEqual([
      ['gap', 'all', 250, 256],
      ['spike', 'browDownLeft', 390, 390],
    ]);
  });

  it('lie where the clap is heard and seen, and come over to both faces', async () => {
    const sound = readWav(makeRecordings()[1].bytes);
    for (const title of ['Lantern Bearer', 'Apprentice']) {
      const recording = { recording: 'face', offset: CRIER_LATE, rate: null, spikes: true, smooth: null };
      const recipe = { ...DEFAULT_RECIPE, take: { ...DEFAULT_RECIPE.take, face: recording } };
      const character = files.get(title)!;
      const { ready, report, bytes } = runJob({ take: files.get("Town crier's call")!, clip: 0, character, recipe, face });
      const found = matchClaps(clapsHeard(sound), clapsSeen(ready.performer, ready.take))!;
      // Within a frame of the body's recorder.
      expect(Math.abs(found.offset - CRIER_LATE)).toBeLessThan(0.02);
      const figures = new Map(report.verdict.figures.map(({ id, value }) => [id, value]));
      expect(figures.get('face.shapes')).toBeLessThan(0.01);
      expect(report.verdict.figures.filter(({ mark }) => mark === 'fault')).toEqual([]);
      expect(ready.face!.table.bare).toEqual([]);
      const checked = await validateBytes(bytes);
      expect([checked.issues.numErrors, checked.issues.numWarnings]).withContext(title).toEqual([0, 0]);
    }
  });
});
