import { DEFAULT_PATTERN, nameBy, Names, namesBy, patternFault, safeName } from '.';
import { random } from '../math/random';

describe('file names', () => {
  it('are such that every system takes them, and near to what people wrote', () => {
    expect(safeName('Quay walk on Heron')).toBe('quay-walk-on-heron');
    expect(safeName('Ánima / Tide: King?')).toBe('anima-tide-king');
    expect(safeName("bell-ringer's climb")).toBe('bell-ringers-climb');
    expect([safeName('Τραγούδι Β'), safeName('港の夜明け'), safeName('Ночной ПОХОД')]).toEqual([
      'τραγούδι-β',
      '港の夜明け',
      'ночной-поход',
    ]);
    expect(safeName('हवा')).toBe('हवा');
    expect(new TextEncoder().encode(safeName('潮'.repeat(300))).length).toBeLessThanOrEqual(200);
    expect([safeName('★'), safeName('..'), safeName('')]).toEqual(['file-unnamed', 'file-unnamed', 'file-unnamed']);
    expect([safeName('CON'), safeName('lpt1'), safeName('aux.h')]).toEqual(['file-con', 'file-lpt1', 'file-aux.h']);
    expect(safeName('../../etc/passwd')).not.toContain('/');
  });

  it('hold nothing that could lead out of a folder, whatever they are made of', () => {
    const rng = random(31);
    const signs = [...'aZ9 ./\\:*?"<>|-_\u0000\u202e\u00e9\u{1f980}'];
    for (let i = 0; i < 300; i++) {
      const text = Array.from({ length: rng.integer(0, 200) }, () => signs[rng.integer(0, signs.length - 1)]).join('');
      const name = safeName(text);
      expect(name)
        .withContext(JSON.stringify(text))
        .toMatch(/^[\p{Ll}\p{Lo}\p{N}_][\p{Ll}\p{Lo}\p{M}\p{N}._-]{0,199}$/u);
      expect(safeName(name)).withContext('a safe name stays as it is').toBe(name);
    }
  });

  it('are made by a pattern, and told apart where they would clash', () => {
    const parts = { take: 'Quay walk', character: 'Heron', fps: 30, frames: 12, number: 7 };
    expect(nameBy('{character}_{take}-{number}', parts)).toBe('heron_quay-walk-7');
    const { names } = namesBy('{character}', [parts, { ...parts, take: 'Limp home' }, { ...parts, character: 'heron' }]);
    expect(new Set(names).size).toBe(3);
    expect(names[0]).toBe('heron');
    // Names that one file system keeps apart are one for another.
    const given = new Names(['report']);
    expect([given.free('Straße'), given.free('STRASSE'), given.free('e\u0301'), given.free('\u00e9'), given.free('Report')]).toEqual([
      'Straße',
      'STRASSE-2',
      'e\u0301',
      '\u00e9-2',
      'Report-2',
    ]);
    expect(nameBy('{take}-{fps}', { ...parts, fps: 30000 / 1001 })).toBe('quay-walk-29.97');
    expect(patternFault(DEFAULT_PATTERN)).toBeUndefined();
    expect(patternFault('{tkae}')).toContain('{tkae} is unknown; use {take}');
    expect(patternFault('{take')).toContain('not closed');
    expect(patternFault(' ')).toContain('empty');
  });
});
