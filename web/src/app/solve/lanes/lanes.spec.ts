import { makeSolved } from '../../testing/solved';
import { followed, leftOf, scrolled, wholeOf, zoomed } from './frames-window';
import { lanesOf } from './lanes';

describe('lanes', () => {
  const solved = makeSolved();

  it('have every plant and touch in one of them', () => {
    const touches = [
      { side: 'left', on: 'rest', first: 3, last: 9 },
      { side: 'left', on: 'hand', first: 20, last: 30 },
      { side: 'right', on: 'rest', first: 4, last: 8 },
    ] as const;
    const lanes = lanesOf({ ...solved, touches }, solved.rests).flatMap((group) => group.lanes);
    const bars = lanes.flatMap((lane) => lane.bars.map(({ text }) => text));
    expect(bars.length).toBe(solved.contacts.plants.length + 3);
    expect(bars).toContain('hands together, frames 21 to 31');
    expect(bars).toContain('right hand at rest, frames 5 to 9');
  });

  it('are there for what hands touch of the body and what of it lies, where anything does', () => {
    const names = (of: Partial<typeof solved>): string[] =>
      lanesOf({ ...solved, ...of }, []).flatMap(({ lanes }) => lanes.map(({ name }) => name));
    const usual = names({});
    const touches = [
      { side: 'left', on: 'body', part: 'left.upperLeg', first: 3, last: 9 },
      { side: 'right', on: 'body', part: 'left.lowerArm', first: 4, last: 8 },
    ] as const;
    const lying = [{ part: 'left.knee', first: 1, last: 5 }] as const;
    expect(names({ touches, lying }).filter((name) => !usual.includes(name))).toEqual(['left on thigh', 'right on forearm', 'left knee']);
    const bars = lanesOf({ ...solved, touches, lying }, []).flatMap(({ lanes }) =>
      lanes.flatMap((lane) => lane.bars.map(({ text }) => text)),
    );
    expect(bars).toContain('left hand on left thigh touching, frames 4 to 10');
    expect(bars).toContain('left knee on the floor, frames 2 to 6');
  });

  it('are there for both hands on each thing beside the body, held or not', () => {
    const touches = [{ side: 'right', on: 'prop', part: 'extra.crate.1', first: 3, last: 9 }] as const;
    const props = [
      { role: 'extra.crate.1', joint: 4 },
      { role: 'extra.pole.1', joint: undefined },
    ];
    const lanes = lanesOf({ ...solved, touches, props }, []).flatMap((group) => group.lanes);
    const held = lanes
      .filter(({ of }) => of.kind === 'touch' && of.on === 'prop')
      .map(({ name, bars }) => [name, bars.map(({ text }) => text)]);
    expect(held).toEqual([
      ['right on crate', ['right hand on crate holding, frames 4 to 10']],
      ['left on crate', []],
      ['left on pole', []],
      ['right on pole', []],
    ]);
  });

  it('say which rests are not held', () => {
    const plain = lanesOf(solved, solved.report.plain!.rests).flatMap(({ lanes }) => lanes.flatMap(({ rests }) => rests));
    expect(plain.some(({ isLost, text }) => isLost && text.includes('not held'))).toBeTrue();
    const after = lanesOf(solved, solved.rests).flatMap(({ lanes }) => lanes.flatMap(({ rests }) => rests));
    expect(after.filter(({ isLost }) => isLost)).toEqual([]);
    expect(lanesOf(undefined, []).flatMap(({ lanes }) => lanes.flatMap(({ bars }) => bars))).toEqual([]);
  });
});

describe('a window of frames', () => {
  it('keeps the frame that is zoomed about in its place, and stays within the take', () => {
    const near = zoomed(wholeOf(600), 600, 4, 300);
    expect(near.count).toBe(150);
    expect(leftOf(near, 300)).toBeCloseTo(50, 9);
    expect(zoomed(near, 600, 0.01, 300)).toEqual(wholeOf(600));
    expect(zoomed(near, 600, 1e6, 300).count).toBe(12);
    expect(scrolled(near, 600, 1e4).from).toBe(450);
    expect(scrolled(near, 600, -1e4).from).toBe(0);
  });

  it('goes along with a frame that has left it', () => {
    const near = { from: 100, count: 50 };
    expect(followed(near, 600, 120)).toBe(near);
    expect(followed(near, 600, 160).from).toBe(155);
    expect(followed(near, 600, 0).from).toBe(0);
  });
});
