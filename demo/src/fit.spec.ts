import { validateBytes } from 'gltf-validator';
import {
  bindMesh,
  ClipReader,
  DEFAULT_FIT,
  layMesh,
  openMesh,
  prepareRig,
  quat,
  rangeCheck,
  readMotionFile,
  type FitChoices,
  type MotionFile,
  type Pose,
  type Rig,
} from '@hollow-stride/core';
import { makeMeshes, type DemoFile } from './index';
import { NETMENDER_JOINTS } from './meshes/netmender';
import { production } from './testing/production';

/** The tall one, the short one and the broad one; of each the detail that its own skeleton has, as near as there is a choice for it. */
const DETAIL: Readonly<Record<string, Partial<FitChoices['detail']>>> = {
  Heron: { fingers: 3, spine: 4, neck: 2 },
  Apprentice: { fingers: 0 },
  Bellkeeper: { spine: 5, neck: 2, twists: true },
};

describe('characters whose skeleton is thrown away and fitted again', () => {
  let characters: readonly DemoFile[];
  beforeAll(async () => {
    characters = (await production()).filter(({ title }) => title in DETAIL);
  });

  it('have their joints where they were, and skin that is drawn out no more', async () => {
    expect(characters.length).toBe(Object.keys(DETAIL).length);
    for (const { title, name, bytes } of characters) {
      const first = await readMotionFile(bytes, name);
      const mesh = await openMesh(bytes, name);
      const choices: FitChoices = { ...DEFAULT_FIT, detail: { ...DEFAULT_FIT.detail, ...DETAIL[title] } };
      const laid = layMesh(mesh, choices);
      const bound = await bindMesh(laid, choices, title);
      const [off, role] = farthest(prepareRig(first), bound.rig, laid.body.height);
      expect(off).withContext(`${title}, ${role}`).toBeLessThan(0.03);
      expect(pullOfFile(bound.file, bound.rig))
        .withContext(title)
        .toBeLessThan(1.2 * pullOfFile(first, prepareRig(first)));
      const { issues } = await validateBytes(bound.glb, { maxIssues: 20 });
      expect(issues.numErrors)
        .withContext(`${title}: ${JSON.stringify(issues.messages[0] ?? '')}`)
        .toBe(0);
    }
  }, 120_000);
});

describe('the Netmender', () => {
  it('has its joints found, though a coil lies over one shoulder and all is in centimetres with Z up', async () => {
    const [{ bytes, name }] = makeMeshes();
    const mesh = await openMesh(bytes, name);
    expect(mesh.guessed.stand).toEqual({ metres: 0.01, up: '+Z', quarter: 0 });
    const { landmarks, height } = layMesh(mesh, DEFAULT_FIT);
    const parts = {
      hip: 'upperLeg',
      knee: 'lowerLeg',
      ankle: 'foot',
      ball: 'toes',
      shoulder: 'upperArm',
      elbow: 'lowerArm',
      wrist: 'hand',
    };
    for (const [mark, part] of Object.entries(parts)) {
      for (const [side, letter] of [
        ['left', 'L'],
        ['right', 'R'],
      ]) {
        const { at } = NETMENDER_JOINTS.find((joint) => joint.name === `${letter}.${part}`)!;
        const off = Math.hypot(...landmarks[`${side}.${mark}`].map((v, c) => v - at[c]));
        expect(off / height)
          .withContext(`${side} ${mark}`)
          .toBeLessThan(0.03);
      }
    }
  });
});

/** Farthest that a joint which both have is from where it was, share of the height. */
function farthest(first: Rig, second: Rig, height: number): [share: number, role: string] {
  let found: [number, string] = [0, ''];
  for (const [role, j] of second.roles) {
    const i = first.roles.get(role);
    if (i === undefined) continue;
    const [p, q] = [first.restPose.positions, second.restPose.positions];
    const share = Math.hypot(p[i * 3] - q[j * 3], p[i * 3 + 1] - q[j * 3 + 1], p[i * 3 + 2] - q[j * 3 + 2]) / height;
    if (share > found[0]) found = [share, role];
  }
  return found;
}

/** Most that the skin of a file is drawn out in the range check, by sums of this test's own. */
function pullOfFile(file: MotionFile, rig: Rig): number {
  const skin = file.skin!;
  const { clip } = rangeCheck(rig.skeleton, rig.restPose, rig.roles, rig);
  const reader = new ClipReader(rig.skeleton, clip);
  const places = (pose: Pose): Float64Array => {
    const out = new Float64Array(skin.joints.length * 3);
    const v = new Float64Array(3);
    for (let k = 0; k < skin.influences.length; k++) {
      const j = skin.influences[k];
      if (j < 0) continue;
      for (let c = 0; c < 3; c++) v[c] = skin.locals[k * 3 + c] * rig.basis.metres;
      quat.rotate(v, 0, pose.rotations, j * 4, v, 0);
      for (let c = 0; c < 3; c++) out[(k >> 2) * 3 + c] += skin.weights[k] * (v[c] + pose.positions[j * 3 + c]);
    }
    return out;
  };
  const rest = places(rig.restPose);
  const length = (at: Float64Array, e: number): number => {
    const [a, b] = [skin.edges[e] * 3, skin.edges[e + 1] * 3];
    const [x, y, z] = [at[a] - at[b], at[a + 1] - at[b + 1], at[a + 2] - at[b + 2]];
    return Math.sqrt(x * x + y * y + z * z);
  };
  const lengths = Float64Array.from({ length: skin.edges.length }, (_, e) => (e % 2 === 0 ? length(rest, e) : 0));
  let most = 0;
  for (let f = 0; f < clip.frames; f += 6) {
    const now = places(reader.at(f));
    for (let e = 0; e < skin.edges.length; e += 2) most = Math.max(most, length(now, e) - lengths[e]);
  }
  return most;
}
