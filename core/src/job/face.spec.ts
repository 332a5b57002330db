import { random } from '../math';
import { readMotionFile, writeGlb, type FaceWeights, type MotionFile } from '../formats';
import { DEFAULT_FACE_ROW, DEFAULT_NAME_TABLE, DEFAULT_RECIPE, type NameTable, type Recipe } from '../recipe';
import { jointKeys } from '../skeleton';
import { makeFaceTrack, makeFile, makeGlb, randomShape, walk, withFace } from '../testing';
import { judgeTransfer, outputOf, prepare, runJob, solveReady, type Job } from './job';

const CHANNELS = ['jawOpen', 'eyeBlinkLeft', 'eyeBlinkRight', 'mouthSmileLeft', 'mouthSmileRight', 'eyeLookUpLeft', 'eyeLookInLeft'];
const SHAPES = ['mouthOpen', 'blink_L', 'blink_R', 'smile_L', 'smile_R'];
const shape = randomShape(41, { spine: 3, neck: 1, clavicles: true });
const take = makeFile(shape, { name: 'call.bvh', metres: 0.01 }, walk(shape, { seed: 41, frames: 260, fps: 100 }));
const plain = makeFile(randomShape(42, { spine: 2, neck: 1, clavicles: true }), { name: 'body.bvh' });
const face = makeFaceTrack(CHANNELS, { seconds: 4, seed: 6 });

async function characterOf(meshes: readonly (readonly string[])[], hasJoints = false): Promise<MotionFile> {
  return readMotionFile(await withFace(await makeGlb(plain.skeleton), meshes, hasJoints), 'body.glb');
}

function recipeOf(table: Partial<NameTable> = {}, more: Partial<Recipe> = {}): Recipe {
  return {
    ...DEFAULT_RECIPE,
    ...more,
    take: { ...DEFAULT_RECIPE.take, from: 0.3, face: { recording: 'face', offset: 0.4, rate: null, spikes: false, smooth: null } },
    pairing: { ...DEFAULT_RECIPE.pairing, face: { ...DEFAULT_NAME_TABLE, ...table } },
  };
}

const jobOf = (character: MotionFile, recipe = recipeOf()): Job => ({ take, clip: 0, character, recipe, face });
const figure = (all: readonly { id: string; value: number; mark: string }[], id: string) => all.find((one) => one.id === id)!;

describe('the face of a job', () => {
  it('goes into the file with the body, on every mesh that has the shape, at the recorder’s own frames', async () => {
    const character = await characterOf([SHAPES, ['teeth', 'mouthOpen']]);
    const { bytes, report, output } = runJob(jobOf(character));
    const back = await readMotionFile(bytes, 'out.glb');
    expect(back.clips.length).toBe(1);
    const read = back.faces![0]!;
    expect(read.channels).toEqual([...SHAPES, 'teeth']);
    // The recording begins 0.4 s into the take, which plays from 0.3 s.
    const at = (seconds: number, channel: number): number =>
      face.values[Math.round((seconds + 0.3 - 0.4) * 60) * CHANNELS.length + channel];
    const weights = output.face!;
    weights.times.forEach((time, t) => {
      if (time < 0.12 || t === weights.times.length - 1) return;
      expect(Math.abs(weights.values[t * weights.shapes.length] - at(time, 0))).toBeLessThan(1e-5);
      expect(Math.abs(weights.values[t * weights.shapes.length + 3] - at(time, 3))).toBeLessThan(1e-5);
    });
    expect(weights.times.length).toBeGreaterThan(2 * 60);
    expect(figure(report.verdict.figures, 'face.shapes').value).toBeLessThan(0.01);
    expect(figure(report.verdict.figures, 'face.left').value).toBeCloseTo((100 * 2) / 7, 3);
    expect(report.cautions.some(({ message }) => message.includes('0.40 to'))).toBeTrue();
  });

  it('turns jaw and eyes that are joints, in the body’s own axes, and the judge tells the same by itself', async () => {
    const character = await characterOf([SHAPES.slice(1)], true);
    const { ready, transfer, report } = runJob(jobOf(character));
    expect(ready.face!.table.joints.map(({ joint }) => joint).sort()).toEqual(['eye_L', 'jaw']);
    const joints = figure(report.verdict.figures, 'face.joints');
    expect(joints.value).toBeLessThan(0.05);
    // A jaw that opens goes down ahead of its joint: about the body's left.
    const jaw = jointKeys(ready.character.skeleton).indexOf('jaw');
    const clip = transfer.clip;
    const count = ready.character.skeleton.names.length;
    const half = Math.acos(Math.min(1, Math.abs(clip.rotations[(100 * count + jaw) * 4 + 3])));
    const open = face.values[Math.round((1 + 0.3 - 0.4) * 60) * CHANNELS.length];
    expect(((2 * half) / Math.PI) * 180).toBeCloseTo(22 * open, 0);
    // One eye held still is seen.
    const eye = jointKeys(ready.character.skeleton).indexOf('eye_L');
    const rotations = clip.rotations.slice();
    for (let f = 0; f < clip.frames; f++) rotations.copyWithin((f * count + eye) * 4, eye * 4, eye * 4 + 4);
    expect(figure(judgeTransfer(ready, { ...transfer, clip: { ...clip, rotations } }).figures, 'face.joints').mark).toBe('fault');
  });

  it('is judged by sums of its own: what is late, exchanged, still, smoothed or too strong is caught', async () => {
    const ready = prepare(jobOf(await characterOf([SHAPES])));
    const transfer = solveReady(ready);
    const { weights } = ready.face!;
    const valueOf = (values: Float32Array): string =>
      figure(judgeTransfer(ready, transfer, { ...weights, values }).figures, 'face.shapes').mark;
    const width = weights.shapes.length;
    const rows = weights.times.length;
    const changed = (change: (values: Float32Array) => void): Float32Array => {
      const values = weights.values.slice();
      change(values);
      return values;
    };
    expect(valueOf(weights.values)).toBe('good');
    expect(valueOf(changed((v) => v.copyWithin(6 * width, 0, (rows - 6) * width)))).toBe('fault');
    expect(
      valueOf(
        changed((v) => {
          for (let r = 0; r < rows; r++) [v[r * width + 1], v[r * width + 2]] = [v[r * width + 2], v[r * width + 1]];
        }),
      ),
    ).toBe('fault');
    expect(valueOf(changed((v) => v.fill(0)))).toBe('fault');
    expect(valueOf(changed((v) => v.forEach((x, i) => (v[i] = i % width === 0 ? Math.min(1, 1.3 * x) : x))))).toBe('fault');
    expect(valueOf(changed((v) => (v[60 * width] += 0.05)))).toBe('caution');
    expect(valueOf(changed((v) => (v[60 * width] = NaN)))).toBe('fault');
    const none = judgeTransfer(ready, transfer, { ...weights, shapes: weights.shapes.map((name) => `${name}?`) });
    expect(figure(none.figures, 'face.shapes').mark).toBe('fault');
  });

  it('answers to everything that a name table can say, and the judge agrees', async () => {
    const character = await characterOf([SHAPES], true);
    const { range, integer } = random(77);
    for (let i = 0; i < 12; i++) {
      const rows = Object.fromEntries(
        SHAPES.map((name) => {
          const from = Array.from({ length: integer(0, 3) }, () => ({
            channel: CHANNELS[integer(0, CHANNELS.length - 1)],
            weight: range(-1, 2),
          }));
          const curve =
            i % 3 === 0
              ? ([
                  [0, 0],
                  [range(0.2, 0.5), range(0.1, 0.9)],
                  [1, 1],
                ] as [number, number][])
              : null;
          return [
            name,
            {
              ...DEFAULT_FACE_ROW,
              from,
              curve,
              strength: range(0.2, 2),
              offset: range(-0.2, 0.2),
              rest: range(-0.1, 0.1),
              low: -0.2,
              high: 1.2,
            },
          ];
        }),
      );
      const joints = {
        jaw: [
          {
            ...DEFAULT_FACE_ROW,
            from: [{ channel: 'jawOpen', weight: 1 }],
            degrees: [range(-30, 30), range(-30, 30), range(-30, 30)] as [number, number, number],
          },
        ],
      };
      const { report } = runJob(jobOf(character, recipeOf({ rows, joints, exchange: i % 2 === 1 })));
      expect(figure(report.verdict.figures, 'face.shapes').value).not.toBeGreaterThan(0.5);
      expect(figure(report.verdict.figures, 'face.joints').value).toBeLessThan(0.05);
    }
  });

  it('exchanges left and right, and twice is as it was', async () => {
    const character = await characterOf([SHAPES]);
    const column = (exchange: boolean, name: string): number[] => {
      const { weights } = prepare(jobOf(character, recipeOf({ exchange }))).face!;
      return [...weights.values].filter((_, i) => i % weights.shapes.length === weights.shapes.indexOf(name));
    };
    expect(column(true, 'blink_L')).toEqual(column(false, 'blink_R'));
    expect(column(true, 'smile_R')).toEqual(column(false, 'smile_L'));
    expect(column(true, 'mouthOpen')).toEqual(column(false, 'mouthOpen'));
  });

  it('says what it lacks: the recording, shapes to drive, a take that it lies in, channels that a table names', async () => {
    const messages = (job: Job): string =>
      prepare(job)
        .cautions.map(({ message }) => message)
        .join('\n');
    const character = await characterOf([SHAPES]);
    expect(messages({ ...jobOf(character), face: undefined })).toContain('was not given');
    expect(messages(jobOf(plain))).toContain('no face shapes');
    const late = recipeOf();
    expect(messages(jobOf(character, { ...late, take: { ...late.take, face: { ...late.take.face!, offset: 90 } } }))).toContain(
      'set where it begins',
    );
    const rows = { mouthOpen: { ...DEFAULT_FACE_ROW, from: [{ channel: 'yawn', weight: 1 }] } };
    expect(messages(jobOf(character, recipeOf({ rows })))).toContain('yawn');
  });

  it('changes nothing of the body, and nothing at all where there is none', async () => {
    const character = await characterOf([SHAPES]);
    const bare = runJob({ ...jobOf(character, { ...DEFAULT_RECIPE, take: { ...DEFAULT_RECIPE.take, from: 0.3 } }), face: undefined });
    const faced = runJob(jobOf(character));
    expect(faced.output.clip.rotations).toEqual(bare.output.clip.rotations);
    expect(bare.output.face).toBeUndefined();
    expect(bare.report.verdict.figures.some(({ id }) => id.startsWith('face.'))).toBeFalse();
    // A file without meshes holds no shapes, and says so.
    const recipe = recipeOf();
    const boneless = runJob(jobOf(character, { ...recipe, delivery: { ...recipe.delivery, bare: true } }));
    expect(boneless.output.face).toBeUndefined();
    expect(figure(boneless.report.verdict.figures, 'face.shapes').mark).toBe('unseen');
  });

  it('is read from a take’s own file', async () => {
    const source = await characterOf([SHAPES]);
    const ready = prepare({ ...jobOf(source), face: undefined, recipe: recipeOf() });
    const body = outputOf(ready, solveReady(ready)).clip;
    const times = Float32Array.from({ length: 121 }, (_, f) => f / 60);
    const weights: FaceWeights = { times, shapes: ['mouthOpen'], values: times.map((t) => t / 2) };
    if (source.layout.format !== 'glb') throw new Error('not a GLB');
    const filmed = await readMotionFile(writeGlb(source.skeleton, body, source.layout, { face: weights }), 'filmed.glb');
    const recipe = recipeOf();
    const own: Recipe = { ...recipe, take: { ...DEFAULT_RECIPE.take, face: { ...recipe.take.face!, recording: 'take', offset: 0 } } };
    const made = prepare({ take: filmed, clip: 0, character: source, recipe: own }).face!;
    const open = made.weights.shapes.indexOf('mouthOpen');
    made.weights.times.forEach((t, k) =>
      expect(made.weights.values[k * made.weights.shapes.length + open]).toBeCloseTo(Math.min(1, t / 2), 4),
    );
  });
});
