import { type Mesh, PerspectiveCamera } from 'three';
import { makeBodyView } from '../testing/views';
import { JointMarks } from './joint-marks';
import { turnOf } from './turn-keys';

describe('marks on joints', () => {
  const view = makeBodyView();

  it('stand where the joints are, and only for joints that the body has', () => {
    const marks = new JointMarks();
    const hand = view.roles['left.hand'];
    marks.set([
      { joint: hand, solid: true },
      { joint: -1, solid: false },
      { joint: 9999, solid: false },
    ]);
    marks.pose(view.rest, new PerspectiveCamera(), 1.8);
    const shown = marks.group.children.filter((ring) => ring.visible) as Mesh[];
    expect(shown.length).toBe(1);
    expect(shown[0].position.toArray()).toEqual([...view.rest.positions.slice(hand * 3, hand * 3 + 3)]);
    marks.set([]);
    marks.pose(view.rest, new PerspectiveCamera(), 1.8);
    expect(marks.group.children.some((ring) => ring.visible)).toBeFalse();
    marks.dispose();
  });
});

describe('keys that turn the view', () => {
  const key = (name: string, shiftKey = false): KeyboardEvent => new KeyboardEvent('keydown', { key: name, shiftKey });

  it('are the arrows with Shift, plus and minus; plain arrows step the frame', () => {
    expect(turnOf(key('ArrowLeft', true))).toEqual([-10, 0, 1]);
    expect(turnOf(key('ArrowLeft'))).toBeUndefined();
    expect(turnOf(key('+'))![2]).toBeGreaterThan(1);
    expect(turnOf(key('a'))).toBeUndefined();
  });
});
