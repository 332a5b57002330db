import * as fc from 'fast-check';
import * as v from 'valibot';
import * as contract from './index';
import { valuesOf } from './testing/values';

const SCHEMAS = Object.entries(contract as Record<string, unknown>)
  .filter(([name, value]) => name.endsWith('Schema') && typeof value === 'object')
  .map(([name, schema]) => [name, schema as v.GenericSchema] as const);
const accepts = (schema: v.GenericSchema, value: unknown): boolean => v.safeParse(schema, value).success;

/** Every place in a value: the way to it, key by key. */
function placesIn(value: unknown, path: readonly (string | number)[] = []): (readonly (string | number)[])[] {
  if (typeof value !== 'object' || value === null) return [path];
  return [path, ...Object.entries(value).flatMap(([key, part]) => placesIn(part, [...path, Array.isArray(value) ? Number(key) : key]))];
}

/** A copy with one place put to another value. */
function withPlace(value: unknown, path: readonly (string | number)[], to: unknown): unknown {
  if (path.length === 0) return to;
  const [key, ...rest] = path;
  if (Array.isArray(value)) return value.map((part: unknown, i) => (i === key ? withPlace(part, rest, to) : part));
  const record = value as Record<string, unknown>;
  return { ...record, [key]: withPlace(record[key], rest, to) };
}

describe('every schema that both sides check by', () => {
  it('is one of those that are tried here', () => {
    expect(SCHEMAS.length).toBeGreaterThan(50);
  });

  for (const [name, schema] of SCHEMAS) {
    const values = valuesOf(schema).filter((value) => accepts(schema, value));

    it(`${name} takes what it describes, through JSON too, and gives it back the same the second time`, () => {
      fc.assert(
        fc.property(values, (value) => {
          const once = v.parse(schema, JSON.parse(JSON.stringify(value)));
          // What has been read is no longer text to be read: numbers of a query have become numbers.
          if (/Search/.test(name)) return;
          expect(v.parse(schema, JSON.parse(JSON.stringify(once)))).toEqual(once as never);
        }),
        { numRuns: 12 },
      );
    });

    it(`${name} lets nothing through beside what it describes`, () => {
      fc.assert(
        fc.property(values, fc.string({ minLength: 3 }), fc.jsonValue(), (value, key, extra) => {
          if (typeof value !== 'object' || value === null || Array.isArray(value)) return;
          if ((schema as { type?: string }).type === 'record' || key in value || key === '__proto__') return;
          const isStrict = !accepts(schema, { ...value, [key]: extra });
          if (!isStrict) expect(Object.keys(v.parse(schema, { ...value, [key]: extra }) as object)).not.toContain(key);
        }),
        { numRuns: 8 },
      );
    });

    it(`${name} never throws and never says yes to a value of a wrong kind in any of its places`, () => {
      const wrong = fc.constantFrom<unknown>(Symbol.iterator, undefined, NaN, Infinity, -Infinity, 10n);
      fc.assert(
        fc.property(values, fc.nat(), wrong, (value, which, other) => {
          const places = placesIn(value);
          const path = places[which % places.length];
          // Keys that every object has are dropped, with whatever stands there.
          if (path.includes('constructor') || path.includes('prototype')) return;
          const spoilt = withPlace(value, path, other);
          // Free values may be anything, and what may be left out may be undefined.
          if ((name === 'conflictSchema' && path[0] === 'current') || other === undefined) {
            accepts(schema, spoilt);
            return;
          }
          expect(accepts(schema, spoilt)).withContext(path.join('.')).toBeFalse();
        }),
        { numRuns: 15 },
      );
    });
  }
});

describe('a name', () => {
  it('is trimmed, well-formed and short enough, whatever a file was called', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => {
        const name = contract.asName(text);
        expect(v.parse(contract.nameSchema, name)).toBe(name);
        expect(name.length).toBeLessThanOrEqual(contract.LIMITS.name);
        expect(encodeURIComponent(name)).toBeTruthy();
      }),
    );
    expect(contract.asName('  \n ', 'take')).toBe('take');
  });

  it('that is given is trimmed before it is counted', () => {
    const most = 'x'.repeat(contract.LIMITS.name);
    expect(v.parse(contract.nameSchema, `   ${most}  `)).toBe(most);
    expect(accepts(contract.nameSchema, `${most}x`)).toBeFalse();
  });
});
