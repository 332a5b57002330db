import { Group, type Mesh, type Object3D, Quaternion, Scene, Vector3 } from 'three';
import { clipOf, ClipReader, prepareRig, propsOf, watchedPoints } from '@hollow-stride/core';
import { makeFile, randomShape, rigWithCrate, walk, withCrate } from '../../../../core/src/testing';
import { displayBody } from '../solver/display';
import { floorPlan } from '../solver/floor-plan';
import { Floor } from './floor';
import { DEFAULT_STAGE, type StageOptions } from './options';
import { Overlays, type Overlaid } from './overlays';
import { PointMarks } from './point-marks';
import { PropMarks } from './prop-marks';

const shape = randomShape(12, { clavicles: true, spine: 2 });
const file = makeFile(shape, { axes: 12 }, walk(shape, { seed: 12, frames: 60 }));
const rig = prepareRig(file);
const clip = clipOf(file, rig);
const body = displayBody(rig, file, 'f');
const reader = new ClipReader(rig.skeleton, clip);

describe('what the stage draws of a body', () => {
  it('is ready for any body: its height, ends, parts and labelled joints', () => {
    expect(body.height).toBeGreaterThan(1.2);
    expect(body.ends.map(({ joint }) => rig.skeleton.names[joint])).toEqual(['LeftFoot', 'LeftHand', 'RightFoot', 'RightHand', 'Hips']);
    expect([...body.labelled].reduce((a, b) => a + b, 0)).toBe(rig.roles.size);
    expect(body.mesh).toBeUndefined();
    expect(body.about!.parts['head']).toBe(rig.roles.get('head')!);
  });
});

describe('marks of touch points', () => {
  it('stand where the points are in every pose, each with its name beside it', () => {
    const marks = new PointMarks(body, '#C2602A');
    const points = watchedPoints(rig);
    const meshes = marks.group.children.filter((child) => child.type === 'Mesh');
    const names = marks.group.children.filter((child) => child.type === 'Sprite');
    expect([meshes.length, names.length]).toEqual([points.length, points.length]);
    for (const f of [0, 31]) {
      const pose = reader.at(f);
      marks.pose(pose);
      points.forEach(({ joint, local }, i) => {
        const place = new Vector3()
          .fromArray(local)
          .applyQuaternion(new Quaternion().fromArray(pose.rotations, joint * 4))
          .add(new Vector3().fromArray(pose.positions, joint * 3));
        expect(meshes[i].position.distanceTo(place)).withContext(points[i].name).toBeLessThan(1e-6);
        expect(names[i].position.equals(meshes[i].position)).toBeTrue();
      });
    }
    marks.dispose();
  });

  it('are none for a body of which nothing is known', () => {
    const marks = new PointMarks({ ...body, about: undefined } as never, '#C2602A');
    marks.pose(reader.at(0));
    expect(marks.group.children).toEqual([]);
  });
});

describe('boxes of things', () => {
  it('stand upright at rest whatever axes their joints have, and turn as they turn', () => {
    const carried = withCrate(shape);
    const crate = makeFile(carried, { axes: 5 }, walk(carried, { seed: 3, frames: 20 }));
    const withThing = rigWithCrate(crate);
    const marks = new PropMarks(displayBody(withThing, crate, 'f'), '#3A5A95', true);
    const [{ joint }] = propsOf(withThing);
    const [box] = marks.group.children;
    marks.pose(withThing.restPose);
    expect(box.quaternion.angleTo(new Quaternion())).toBeLessThan(1e-6);
    expect(box.position.distanceTo(new Vector3().fromArray(withThing.restPose.positions, joint * 3))).toBeLessThan(1e-9);
    const turn = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), 0.7);
    const turned = {
      positions: withThing.restPose.positions,
      rotations: Float64Array.from(withThing.restPose.rotations),
    };
    turned.rotations.set(
      turn
        .clone()
        .multiply(new Quaternion().fromArray(turned.rotations, joint * 4))
        .toArray(),
      joint * 4,
    );
    marks.pose(turned);
    expect(box.quaternion.angleTo(turn)).toBeLessThan(1e-6);
    marks.dispose();
  });
});

describe('overlays of a body', () => {
  const plan = floorPlan(rig, clip, []);
  const now: Overlaid = { body, clip, plan, floor: 0, planScale: 1 };
  const all: StageOptions = { ...DEFAULT_STAGE, trails: true, prints: true, rooms: true, points: true };

  function made() {
    const scene = new Scene();
    return { scene, overlays: new Overlays(scene, '#C2602A'), shown: (): Object3D[] => [...scene.children] };
  }

  it('are there when they are asked for, one group each, and gone when not', () => {
    const { overlays, shown } = made();
    overlays.update(DEFAULT_STAGE, now);
    expect(shown().length).toBe(0);
    overlays.update(all, now);
    expect(shown().length).toBe(4);
    overlays.pose(reader.at(10));
    overlays.update({ ...all, rooms: false }, now);
    expect(shown().length).toBe(3);
    overlays.update(all, undefined);
    expect(shown().length).toBe(0);
  });

  it('are kept while what they show is the same, and made anew when it is another', () => {
    const { overlays, shown } = made();
    overlays.update(all, now);
    const before = shown();
    overlays.update({ ...all, follow: false, layout: 'over' }, { ...now });
    expect(shown().every((one, i) => one === before[i])).toBeTrue();
    overlays.update(all, { ...now, clip: { ...clip } });
    const kept = shown().filter((one) => before.includes(one));
    // Trails are of the clip; the others are of the body and its floor plan.
    expect(kept.length).toBeLessThan(4);
    expect(kept.length).toBeGreaterThan(0);
    overlays.update(all, { ...now, body: { ...body } });
    expect(shown().filter((one) => kept.includes(one)).length).toBeLessThan(kept.length);
  });

  it('are drawn at the scale of the body beside them, and all leave the stage at the end', () => {
    const { overlays, shown } = made();
    overlays.update(all, now);
    overlays.scale(0.5, 0.6, 0.5);
    for (const group of shown()) expect(group.scale.toArray()).toEqual([0.5, 0.6, 0.5]);
    overlays.dispose();
    expect(shown()).toEqual([]);
  });
});

describe('the floor', () => {
  const parts = (floor: Floor): [planks: Mesh, shade: Mesh] => floor.group.children as [Mesh, Mesh];

  it('lies at its height with its shade under the figure, just over it', () => {
    const floor = new Floor();
    const [planks, shade] = parts(floor);
    floor.place(0.4, 1, -2, 1.5);
    expect(planks.position.toArray()).toEqual([0, 0.4, 0]);
    expect([shade.position.x, shade.position.z, shade.scale.x]).toEqual([1, -2, 1.5]);
    expect(shade.position.y).toBeGreaterThan(0.4);
    expect(shade.position.y).toBeLessThan(0.41);
    const up = new Vector3(0, 0, 1).applyQuaternion(planks.quaternion);
    expect(up.distanceTo(new Vector3(0, 1, 0))).toBeLessThan(1e-9);
    floor.dispose();
  });

  it('slopes as it is told: all of it passes through the places that its incline says', () => {
    const floor = new Floor();
    const [planks, shade] = parts(floor);
    const incline = { x: 0.2, z: -0.1, low: 0.3 };
    for (const [x, z] of [
      [0, 0],
      [2, 1],
      [-1, 3],
    ]) {
      floor.place(1, x, z, 1, incline);
      const height = 1 + x * incline.x + z * incline.z - incline.low;
      expect(shade.position.y).toBeCloseTo(height + 0.002, 9);
      // The planks are a plane through their own place: that place seen from the shade lies in it.
      const normal = new Vector3(0, 0, 1).applyQuaternion(planks.quaternion);
      expect(normal.dot(new Vector3(x, height, z).sub(planks.position))).toBeCloseTo(0, 9);
    }
    floor.place(1, 0, 0, 1);
    expect(new Vector3(0, 0, 1).applyQuaternion(planks.quaternion).y).toBeCloseTo(1, 9);
    expect(floor.group).toBeInstanceOf(Group);
    floor.dispose();
  });
});
