import { readFileSync } from 'node:fs';
import { DEFAULT_RECIPE, parseLandmarks, parseNameTable, parseOpening, parseRecipe, parseReel, readFace } from '@hollow-stride/core';

describe('the examples of docs/formats.md', () => {
  const text = readFileSync(new URL('../../docs/formats.md', import.meta.url), 'utf8');
  const examples = [...text.matchAll(/```json\n([\s\S]*?)```/g)].map(([, json]) => json);
  const recipe = (part: string) => parseRecipe(JSON.stringify({ ...DEFAULT_RECIPE, ...(JSON.parse(`{${part}}`) as object) }));

  it('are read as they stand', async () => {
    expect(examples.length).toBe(8);
    const [layers, joints, face, take, names, landmarks, stream, reel] = examples;
    expect(recipe(layers).layers.map(({ name }) => name)).toEqual(['wave', 'nod', 'calm']);
    expect(recipe(joints).pairing.byJoint?.own['mast'].turnsTimes).toBe(0.5);
    const track = await readFace(new TextEncoder().encode(face), 'face.json');
    expect([track.frames, track.start, track.channels]).toEqual([4, 0.8, ['jawOpen', 'eyeBlinkLeft']]);
    expect(recipe(take).take.face).toEqual({ recording: 'town-criers-face.csv', offset: 0.8, rate: null, spikes: true, smooth: 12 });
    const { table } = parseNameTable(names);
    expect([table.rows['mouthOpen'].from, table.rows['kiss'].from, table.joints['jaw'][0].degrees]).toEqual([null, [], [22, 0, 0]]);
    const marks = parseLandmarks(landmarks);
    expect([marks.detail.twists, marks.landmarks['left.elbow'][1]]).toEqual([true, 1.157]);
    expect(parseOpening(stream).joints[1].tip).toEqual([0, 45, 0]);
    const read = parseReel(reel);
    expect([read.lanes.length, read.lanes[1].clips[0].mix?.cycles.length, read.touches.length]).toEqual([2, 2, 1]);
  });
});
