import { BODY_KINDS, labellingStudy, NAMINGS } from '../testing';

describe('the labelling study', () => {
  const study = labellingStudy({ named: 1, nameless: 16 });

  it('looks at forty and more ways of naming and kinds of body', () => {
    expect(NAMINGS.length + BODY_KINDS.length).toBeGreaterThanOrEqual(40);
    expect(new Set(NAMINGS.map((naming) => naming.name('left.upperArm') + naming.name('spine.2'))).size).toBe(NAMINGS.length);
  });

  it('gets every required role right with names, on every body', () => {
    for (const { naming, score } of study.namings) expect(score.wrong).withContext(naming.title).toEqual([]);
  });

  it('gets 98 of 100 right with names scrambled, on every kind of body', () => {
    for (const { kind, scrambled } of study.bodies) {
      expect(scrambled.right / scrambled.all)
        .withContext(`${kind.title}: ${scrambled.wrong.join(', ')}`)
        .toBeGreaterThanOrEqual(0.98);
    }
  });
});
