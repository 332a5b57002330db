import { BODY_KINDS, labellingStudy, NAMINGS, type Score, type Study } from '../testing';

describe('the labelling study', () => {
  const study = labellingStudy({ named: 1, nameless: 8 });
  const share = (of: (body: Study['bodies'][number]) => Score): number =>
    study.bodies.reduce((n, body) => n + of(body).right, 0) / study.bodies.reduce((n, body) => n + of(body).all, 0);

  it('looks at forty and more ways of naming and kinds of body', () => {
    expect(NAMINGS.length + BODY_KINDS.length).toBeGreaterThanOrEqual(40);
    expect(new Set(NAMINGS.map((naming) => naming.name('left.upperArm') + naming.name('spine.2'))).size).toBe(NAMINGS.length);
  });

  it('gets every required role right with names, on every body', () => {
    for (const { naming, score } of study.namings) expect(score.wrong).withContext(naming.title).toEqual([]);
  });

  it('gets 98 of 100 right with names scrambled on every kind of body, and 995 of 1000 on all', () => {
    for (const { kind, scrambled } of study.bodies) {
      expect(scrambled.right / scrambled.all)
        .withContext(`${kind.title}: ${scrambled.wrong.join(', ')}`)
        .toBeGreaterThanOrEqual(0.98);
    }
    expect(share(({ scrambled }) => scrambled)).toBeGreaterThanOrEqual(0.995);
  });

  it('does no worse with names that it does not know than with none', () => {
    for (const { kind, unknown, scrambled } of study.bodies) {
      expect(unknown.right)
        .withContext(`${kind.title}: ${unknown.wrong.join(', ')}`)
        .toBeGreaterThanOrEqual(scrambled.right);
    }
  });
});
