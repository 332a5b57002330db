import * as v from 'valibot';
import { attachment, checked, describeIssue, fromSchema, tidied } from './border';
import { Refusal } from './errors';

describe('the border of the server', () => {
  const schema = v.object({ name: v.string(), at: v.object({ frame: v.pipe(v.number(), v.minValue(1)) }), tags: v.array(v.string()) });
  const whole = { name: 'walk', at: { frame: 3 }, tags: ['quay'] };
  const refusalOf = (value: unknown): string => {
    try {
      checked(schema, value);
    } catch (error) {
      if (error instanceof Refusal) return `${error.status} ${error.fault.message}`;
      throw error;
    }
    return 'none';
  };

  it('lets through what is as it should be, and nothing beside it', () => {
    expect(checked(schema, { ...whole, more: 1 })).toEqual(whole);
  });

  it('says where something is wrong, and that something is missing', () => {
    expect(refusalOf({ ...whole, at: {} })).toBe('400 at.frame: it is missing');
    expect(refusalOf({ ...whole, at: { frame: 0 } })).toMatch(/^400 at\.frame: .*1/);
    expect(refusalOf({ ...whole, tags: ['a', 5] })).toMatch(/^400 tags\.1: /);
    expect(refusalOf('x')).toMatch(/^400 \S/);
    const { issues } = v.safeParse(schema, {});
    expect(describeIssue(issues![0])).toBe('name: it is missing');
  });

  it('makes texts well-formed, keys too, and refuses what nests too deep', () => {
    expect(tidied({ 'a\ud800': ['b\u0000c', 1, null] })).toEqual({ 'a\ufffd': ['b c', 1, null] });
    let deep: unknown = 1;
    for (let i = 0; i < 60; i++) deep = [deep];
    expect(() => tidied(deep)).toThrowError(/too deep/);
  });

  it('reads where a list begins: a whole number, from nothing on', () => {
    expect([v.parse(fromSchema, undefined), v.parse(fromSchema, '60')]).toEqual([0, 60]);
    for (const wrong of ['-1', '1.5', 'x', '99999999999999999999'])
      expect(v.safeParse(fromSchema, wrong).success).withContext(wrong).toBeFalse();
  });

  it('names what is saved in any script, and never beyond the header', () => {
    expect(attachment('Quay walk.bvh')).toBe("attachment; filename*=UTF-8''Quay%20walk.bvh");
    const odd = attachment('鐘 "\r\n\'(*).bvh');
    expect(odd).not.toMatch(/[\r\n"]|'\(|\*\)/);
    expect(decodeURIComponent(odd.split("''")[1])).toBe('鐘 "\r\n\'(*).bvh');
  });
});
