import { random } from '../../../../core/src/math';
import { arrowDegrees, TurnDrag } from './turning';

describe('turning by hand', () => {
  it('goes by one degree an arrow key, ten with Shift, to the left and up counter-clockwise', () => {
    const by = (key: string, shiftKey = false): number => arrowDegrees({ key, shiftKey } as KeyboardEvent);
    expect(['ArrowLeft', 'ArrowUp', 'ArrowRight', 'ArrowDown', 'Enter', 'a'].map((key) => by(key))).toEqual([1, 1, -1, -1, 0, 0]);
    expect(['ArrowLeft', 'ArrowDown', 'Home'].map((key) => by(key, true))).toEqual([10, -10, 0]);
  });

  describe('with the pointer', () => {
    const target = document.createElement('div');
    const captured: number[] = [];
    target.setPointerCapture = (id) => captured.push(id);
    target.releasePointerCapture = (id) => captured.splice(captured.indexOf(id), 1);
    const press = { target, pointerId: 7 } as unknown as PointerEvent;

    beforeEach(() => (captured.length = 0));

    it('is nothing before it begins and after it ends', () => {
      const drag = new TurnDrag();
      expect(drag.by(50)).toBe(0);
      drag.start(press, 10);
      expect(captured).toEqual([7]);
      drag.end(press);
      expect(captured).toEqual([]);
      expect(drag.by(50)).toBe(0);
    });

    it('goes the short way round, wherever the angles are counted anew', () => {
      const drag = new TurnDrag();
      drag.start(press, 175);
      expect(drag.by(-175)).toBeCloseTo(10, 9);
      expect(drag.by(170)).toBeCloseTo(-15, 9);
    });

    it('comes to all that the pointer went, however small its steps', () => {
      const rng = random(3);
      for (let trial = 0; trial < 30; trial++) {
        const drag = new TurnDrag();
        let [at, sum] = [rng.range(-180, 180), 0];
        const from = at;
        drag.start(press, at);
        for (let i = 0; i < 200; i++) {
          at += rng.range(-1, 3);
          sum += drag.by(((at + 180) % 360) - 180);
        }
        // What is too little to be told is told with the next step: no more than that is missing at the end.
        expect(Math.abs(sum - (at - from)))
          .withContext(`trial ${trial}`)
          .toBeLessThan(0.4);
      }
    });
  });
});
