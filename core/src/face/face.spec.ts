import * as fc from 'fast-check';
import { makeFaceTrack } from '../testing';
import { random } from '../math';
import { DEFAULT_FACE_ROW, DEFAULT_NAME_TABLE } from '../recipe';
import { cleanFace } from './clean';
import { driveShapes, otherSides, respond } from './drive';
import { columnOf, findFaceFaults } from './faults';
import { proposeNames } from './propose';
import { clapsHeard, matchClaps, soundPeaks } from './sync';
import { resolveTable } from './table';

const sided = (names: readonly string[]): string[] => names.flatMap((name) => [`${name}Left`, `${name}Right`]);
/** The set of 52 that many recorders write. */
const RECORDED = [
  ...sided(['eyeBlink', 'eyeLookDown', 'eyeLookIn', 'eyeLookOut', 'eyeLookUp', 'eyeSquint', 'eyeWide']),
  ...['jawForward', 'jawLeft', 'jawRight', 'jawOpen', 'mouthClose', 'mouthFunnel', 'mouthPucker', 'mouthLeft', 'mouthRight'],
  ...sided(['mouthSmile', 'mouthFrown', 'mouthDimple', 'mouthStretch']),
  ...['mouthRollLower', 'mouthRollUpper', 'mouthShrugLower', 'mouthShrugUpper'],
  ...sided(['mouthPress', 'mouthLowerDown', 'mouthUpperUp', 'browDown']),
  'browInnerUp',
  ...sided(['browOuterUp']),
  'cheekPuff',
  ...sided(['cheekSquint', 'noseSneer']),
  'tongueOut',
];
/** A face of 30 shapes under names of its own. */
const THIRTY: readonly (readonly [shape: string, from: readonly string[]])[] = [
  ['Face.L_Eye_Close', ['eyeBlinkLeft']],
  ['Face.R_Eye_Close', ['eyeBlinkRight']],
  ['Face.L_Eye_Squint', ['eyeSquintLeft']],
  ['Face.R_Eye_Squint', ['eyeSquintRight']],
  ['Face.L_Eye_Wide', ['eyeWideLeft']],
  ['Face.R_Eye_Wide', ['eyeWideRight']],
  ['Face.L_Eye_Look_Up', ['eyeLookUpLeft']],
  ['Face.R_Eye_Look_Up', ['eyeLookUpRight']],
  ['Face.L_Eye_Look_Down', ['eyeLookDownLeft']],
  ['Face.R_Eye_Look_Down', ['eyeLookDownRight']],
  ['Face.L_Brow_Lower', ['browDownLeft']],
  ['Face.R_Brow_Lower', ['browDownRight']],
  ['Face.L_Brow_Outer_Raise', ['browOuterUpLeft']],
  ['Face.R_Brow_Outer_Raise', ['browOuterUpRight']],
  ['Face.Brow_Inner_Raise', ['browInnerUp']],
  ['Face.Jaw_Open', ['jawOpen']],
  ['Face.Jaw_Fwd', ['jawForward']],
  ['Face.L_Jaw', ['jawLeft']],
  ['Face.R_Jaw', ['jawRight']],
  ['Face.L_Mouth_Smile', ['mouthSmileLeft']],
  ['Face.R_Mouth_Smile', ['mouthSmileRight']],
  ['Face.Mouth_Frown', ['mouthFrownLeft', 'mouthFrownRight']],
  ['Face.Lips_Kiss', ['mouthPucker']],
  ['Face.Lips_Funnel', ['mouthFunnel']],
  ['Face.Lips_Shut', ['mouthClose']],
  ['Face.Lips_Stretch', ['mouthStretchLeft', 'mouthStretchRight']],
  ['Face.Cheeks_Puff', ['cheekPuff']],
  ['Face.L_Nose_Wrinkle', ['noseSneerLeft']],
  ['Face.R_Nose_Wrinkle', ['noseSneerRight']],
  ['Face.Tongue_Out', ['tongueOut']],
];
const shapes = THIRTY.map(([shape]) => shape);

describe('a name table', () => {
  it('proposes every shape of a face with the same names for itself', () => {
    expect(RECORDED.length).toBe(52);
    proposeNames(RECORDED, RECORDED).forEach(({ from, reason, likeness }, s) => {
      expect([from, reason, likeness]).toEqual([[{ channel: RECORDED[s], weight: 1 }], 'same', 1]);
    });
  });

  it('proposes 30 shapes of other names for 52 channels, both sides together where a shape has none', () => {
    const found = proposeNames(RECORDED, shapes).map(({ from }) => from.map(({ channel }) => channel));
    THIRTY.forEach(([shape, from], s) => expect([shape, found[s]]).toEqual([shape, [...from]]));
    const table = resolveTable(RECORDED, shapes, []);
    expect(table.bare).toEqual([]);
    expect(table.left.length).toBe(52 - THIRTY.reduce((sum, [, from]) => sum + from.length, 0));
  });

  it('proposes 52 shapes for 30 channels, one for both sides where the recording has one', () => {
    const found = new Map(proposeNames(shapes, RECORDED).map(({ from }, s) => [RECORDED[s], from.map(({ channel }) => channel)]));
    for (const [channel, wanted] of THIRTY) {
      for (const shape of wanted) expect([shape, found.get(shape)]).toEqual([shape, [channel]]);
    }
    expect(resolveTable(shapes, RECORDED, []).left).toEqual([]);
  });

  it('drives jaw and eyes that are joints by what drives no shape', () => {
    const { joints, left } = resolveTable(RECORDED, [], ['hips', 'jaw', 'eye_L', 'eye_R', 'eyelid_L', 'jawline end']);
    expect(joints.map(({ joint, turns }) => [joint, turns.flatMap(({ from }) => from.map(({ channel }) => channel))])).toEqual([
      ['jaw', ['jawOpen']],
      ['eye_L', ['eyeLookUpLeft', 'eyeLookDownLeft', 'eyeLookInLeft', 'eyeLookOutLeft']],
      ['eye_R', ['eyeLookUpRight', 'eyeLookDownRight', 'eyeLookInRight', 'eyeLookOutRight']],
    ]);
    expect(left.length).toBe(52 - 9);
    expect(resolveTable(RECORDED, ['mouthOpen'], ['jaw']).joints).toEqual([]);
  });

  it('takes what was set by hand before any proposal, and says what it cannot find', () => {
    const rows = {
      mouthOpen: { ...DEFAULT_FACE_ROW, from: [{ channel: 'tongueOut', weight: 2 }] },
      kiss: { ...DEFAULT_FACE_ROW, from: [] },
      smile: { ...DEFAULT_FACE_ROW, from: [{ channel: 'nobody', weight: 1 }] },
    };
    const table = resolveTable(RECORDED, ['mouthOpen', 'kiss', 'smile'], [], { ...DEFAULT_NAME_TABLE, rows });
    expect(table.rows.map(({ from, reason }) => [from.length, reason])).toEqual([
      [1, 'hand'],
      [0, 'none'],
      [0, 'hand'],
    ]);
    expect(table.unknown).toEqual(['nobody']);
    expect(table.bare).toEqual(['kiss', 'smile']);
    expect(resolveTable(RECORDED, ['mouthOpen'], [], { ...DEFAULT_NAME_TABLE, propose: false }).bare).toEqual(['mouthOpen']);
  });

  it('exchanges the sides of every channel that has one', () => {
    const other = otherSides(RECORDED);
    RECORDED.forEach((name, c) => {
      const swapped = name.endsWith('Left') ? name.replace(/Left$/, 'Right') : name.replace(/Right$/, 'Left');
      expect(RECORDED[other[c]]).toBe(swapped);
      expect(other[other[c]]).toBe(c);
    });
  });
});

describe('shapes that are driven', () => {
  const response = { offset: 0, strength: 1, curve: null, rest: 0, low: 0, high: 1 };

  it('answer to a sum by offset, curve, strength, rest and limits, in this order', () => {
    expect(respond(response, 0.4)).toBe(0.4);
    expect(respond(response, 1.4)).toBe(1);
    expect(respond({ ...response, low: -1 }, -0.4)).toBe(-0.4);
    // A mouth that rests at 0.06 and, on this face, closes only at −0.1.
    const mouth = { ...response, offset: -0.06, strength: 1.1, rest: -0.1, low: -0.1 };
    expect(respond(mouth, 0.06)).toBeCloseTo(-0.1, 9);
    expect(respond(mouth, 1.06)).toBeCloseTo(1, 9);
    const bent = {
      ...response,
      curve: [
        [0, 0],
        [0.5, 0.1],
        [1, 1],
      ] as [number, number][],
    };
    expect([0, 0.25, 0.5, 0.75, 1].map((x) => Number(respond(bent, x).toFixed(3)))).toEqual([0, 0.05, 0.1, 0.55, 1]);
  });

  it('have their keys at the recorder’s own frames, whatever the rate of the body and wherever the recording lies', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(24, 50, 60, 120),
        fc.constantFrom(30, 50, 59.94, 60, 120),
        fc.double({ min: -2, max: 2, noNaN: true }),
        fc.integer({ min: 1, max: 99 }),
        (fps, rate, offset, seed) => {
          const track = makeFaceTrack(['jawOpen', 'mouthPucker'], { fps: rate, seconds: 3, seed });
          const table = resolveTable(track.channels, ['mouthOpen', 'kiss'], []);
          const clip = { frames: Math.round(2.5 * fps), frameTime: 1 / fps };
          const { weights } = driveShapes(track, table, { first: offset, step: clip.frameTime }, clip);
          const end = (clip.frames - 1) * clip.frameTime;
          expect([weights.times[0], Math.abs(weights.times[weights.times.length - 1] - end) < 1e-6]).toEqual([0, true]);
          weights.times.forEach((time, t) => {
            if (t > 0) expect(time).toBeGreaterThan(weights.times[t - 1]);
            const f = (time + offset) * rate;
            if (t === 0 || t === weights.times.length - 1) return;
            expect(Math.abs(f - Math.round(f))).toBeLessThan(1e-3);
            expect(Math.abs(weights.values[t * 2] - track.values[Math.round(f) * 2])).toBeLessThan(1e-4);
          });
        },
      ),
      { numRuns: 60, seed: 9 },
    );
  });
});

describe('faults of a face recording', () => {
  it('are found where they were planted, and nowhere else', () => {
    for (let seed = 1; seed <= 12; seed++) {
      const track = makeFaceTrack(['jawOpen', 'browInnerUp', 'cheekPuff'], { seed, seconds: 5 });
      expect(findFaceFaults(track)).toEqual([]);
      const values = track.values.slice();
      const { integer } = random(seed);
      const [spike, gap, hole] = [integer(20, 60), integer(100, 140), integer(180, 220)];
      values[spike * 3] += 0.5;
      for (let f = gap; f < gap + 6; f++) values[f * 3 + 1] = NaN;
      for (let f = hole; f < hole + 4; f++) values.fill(NaN, f * 3, f * 3 + 3);
      for (let f = 0; f < track.frames; f++) values[f * 3 + 2] = Number.isNaN(values[f * 3 + 2]) ? NaN : 0.2;
      const found = findFaceFaults({ ...track, values }).filter(({ kind }) => kind !== 'range');
      expect(found.map(({ kind, channel, from, to }) => [kind, channel, from, to])).toEqual([
        ['flat', 2, 0, track.frames - 1],
        ['spike', 0, spike, spike],
        ['gap', 1, gap, gap + 5],
        ['gap', -1, hole, hole + 3],
      ]);
    }
  });

  it('are told where a channel leaves its range, and where a face was lost', () => {
    const track = makeFaceTrack(['jawOpen', 'browInnerUp'], { seconds: 4 });
    const values = track.values.slice();
    for (let f = 50; f < 60; f++) values[f * 2] = 1.3;
    for (let f = 100; f < 130; f++) values.copyWithin(f * 2, 99 * 2, 100 * 2);
    const found = findFaceFaults({ ...track, values });
    expect(found.filter(({ kind }) => kind === 'range').map(({ from, to }) => [from, to])).toEqual([[50, 59]]);
    expect(found.filter(({ kind }) => kind === 'repeat').map(({ from, to }) => [from, to])).toEqual([[100, 129]]);
  });

  it('are mended as a person asks: holes bridged, spikes out, noise smoothed without delay, percents as shares', () => {
    const clean = makeFaceTrack(['jawOpen', 'browInnerUp'], { seconds: 5 });
    const { normal } = random(23);
    const values = clean.values.map((x, i) => 100 * (x + 0.02 * normal() + (i === 2 * 120 ? 0.5 : 0)));
    for (let f = 200; f < 206; f++) values[f * 2 + 1] = NaN;
    const off = (settings: Parameters<typeof cleanFace>[1]): number => {
      const made = cleanFace({ ...clean, values }, settings);
      return Math.sqrt(columnOf(made, 0).reduce((sum, x, f) => sum + (x - clean.values[f * 2]) ** 2, 0) / clean.frames);
    };
    const raw = off({ rate: null, spikes: false, smooth: null });
    const still = off({ rate: null, spikes: true, smooth: null });
    expect(still).toBeLessThan(0.85 * raw);
    expect(off({ rate: null, spikes: true, smooth: 6 })).toBeLessThan(0.6 * still);
    const bridged = columnOf(cleanFace({ ...clean, values }, { rate: 30, spikes: false, smooth: null }), 1);
    expect(bridged.every(Number.isFinite)).toBeTrue();
    expect(bridged[202]).toBeCloseTo((bridged[199] * 4 + bridged[206] * 3) / 7, 5);
  });
});

describe('a clap', () => {
  it('is heard to a few thousandths of a second in front of a loud voice', () => {
    for (let seed = 1; seed <= 10; seed++) {
      const { normal, range } = random(seed);
      const [rate, at] = [16_000, range(0.3, 2.5)];
      const samples = Float32Array.from({ length: 4 * rate }, (_, i) => {
        const t = i / rate;
        const voice = 0.3 * Math.sin(2 * Math.PI * 150 * t) * (t > 1 ? 1 : 0) + 0.2 * Math.sin(2 * Math.PI * 430 * t) * (t > 1.2 ? 1 : 0);
        const slap = t >= at && t < at + 0.1 ? 0.6 * Math.exp((at - t) / 0.01) * normal() : 0;
        return voice + slap + 0.002 * normal();
      });
      const [first] = clapsHeard({ rate, samples });
      expect(Math.abs(first.at - at)).toBeLessThan(0.005);
    }
    expect(clapsHeard({ rate: 8000, samples: new Float32Array(8000) })).toEqual([]);
  });

  it('is found among others by those that agree', () => {
    const heard = [0.4, 1.1, 2.6, 3].map((at, i) => ({ at, strength: 4 - i }));
    const seen = [1.2, 1.9, 4.4].map((at) => ({ at, strength: 1 }));
    expect(matchClaps(heard, seen)).toEqual({ offset: jasmine.any(Number) as unknown as number, agreed: 2 });
    expect(matchClaps(heard, seen)!.offset).toBeCloseTo(0.8, 9);
    expect(matchClaps([], seen)).toBeUndefined();
    expect(matchClaps(heard, [])).toBeUndefined();
  });

  it('shows in a picture of the sound at its place', () => {
    const samples = new Float32Array(1000);
    samples[505] = 0.8;
    samples[506] = -0.7;
    const peaks = soundPeaks({ rate: 1000, samples }, 100);
    expect([peaks.indexOf(Math.max(...peaks)), peaks.indexOf(Math.min(...peaks))]).toEqual([101, 100]);
  });
});
