import * as fc from 'fast-check';
import { safeParse, type GenericSchema } from 'valibot';

/** The parts of a schema that say what it accepts, whatever its kind. */
interface Shape {
  readonly kind: 'schema' | 'validation' | 'transformation';
  readonly type: string;
  readonly requirement?: unknown;
  readonly pipe?: readonly Shape[];
  readonly wrapped?: Shape;
  readonly item?: Shape;
  readonly key?: Shape;
  readonly value?: Shape;
  readonly literal?: unknown;
  readonly entries?: Readonly<Record<string, Shape>>;
  readonly items?: readonly Shape[];
  readonly options?: readonly unknown[];
}

/** Longest text, list and record that is made: limits are tried apart. */
const MOST = 4;

/**
 * Values that a schema accepts, made from the schema itself. Checks that are functions cannot be read from it: of the values for such a
 * part those are kept that pass.
 * @throws Error for a kind of schema that is not known here
 */
export function valuesOf(schema: GenericSchema): fc.Arbitrary<unknown> {
  return from(schema as unknown as Shape);
}

function from(shape: Shape): fc.Arbitrary<unknown> {
  const actions = actionsOf(shape);
  const made = unchecked(shape, actions);
  if (!actions.some(({ type }) => type === 'check')) return made;
  return made.filter((value) => safeParse(shape as unknown as GenericSchema, value).success);
}

/** What is asked of a value beside its kind; a pipe may begin with another one. */
function actionsOf({ pipe = [] }: Shape): readonly Shape[] {
  return pipe.flatMap((part, i) => (part.kind !== 'schema' ? [part] : i === 0 ? [] : [part])).concat(inner(pipe[0]));
}

const inner = (first: Shape | undefined): readonly Shape[] => (first?.pipe ? actionsOf(first) : []);

function unchecked(shape: Shape, actions: readonly Shape[]): fc.Arbitrary<unknown> {
  const limit = (type: string): number | undefined => actions.find((action) => action.type === type)?.requirement as number | undefined;
  switch (shape.type) {
    case 'object':
      return objects(shape.entries!);
    case 'array':
      return fc.array(from(shape.item!), { minLength: limit('min_length') ?? 0, maxLength: Math.min(MOST, limit('max_length') ?? MOST) });
    case 'record':
      return fc.dictionary(from(shape.key!) as fc.Arbitrary<string>, from(shape.value!), { maxKeys: MOST, noNullPrototype: true });
    case 'tuple':
      return fc.tuple(...shape.items!.map(from));
    case 'nullable':
      return fc.option(from(shape.wrapped!), { nil: null });
    case 'optional':
      return from(shape.wrapped!);
    case 'union':
    case 'variant':
      return fc.oneof(...shape.options!.map((option) => from(option as Shape)));
    case 'picklist':
      return fc.constantFrom(...shape.options!);
    case 'literal':
      return fc.constant(shape.literal);
    case 'boolean':
      return fc.boolean();
    case 'number':
      return numbers(actions, limit);
    case 'string':
      return texts(actions, limit);
    case 'unknown':
      return fc.jsonValue();
    default:
      throw new Error(`no values are made of a schema of type "${shape.type}"`);
  }
}

function objects(entries: Readonly<Record<string, Shape>>): fc.Arbitrary<unknown> {
  const names = Object.keys(entries);
  const required = names.filter((name) => entries[name].type !== 'optional');
  return fc.record(Object.fromEntries(names.map((name) => [name, from(entries[name])])), { requiredKeys: required, noNullPrototype: true });
}

function numbers(actions: readonly Shape[], limit: (type: string) => number | undefined): fc.Arbitrary<number> {
  const [min, max] = [limit('min_value'), limit('max_value')];
  if (actions.some(({ type }) => type === 'integer')) return fc.integer({ min: min ?? -1000, max: Math.min(max ?? 1e6, 1e6) });
  return fc.double({ min: min ?? -1e6, max: max ?? 1e6, noNaN: true, noDefaultInfinity: true }).map((v) => (Object.is(v, -0) ? 0 : v));
}

/** Texts by pattern: a schema has thousands of texts of few patterns, and each takes a while to be laid out. */
const known = new Map<string, fc.Arbitrary<string>>();

function textsLike(pattern: RegExp): fc.Arbitrary<string> {
  const key = String(pattern);
  const before = known.get(key);
  if (before) return before;
  const made = fc.stringMatching(pattern);
  known.set(key, made);
  return made;
}

function texts(actions: readonly Shape[], limit: (type: string) => number | undefined): fc.Arbitrary<string> {
  // A text that is read as a number: one of those that it may be.
  const read = actions.find(({ kind, type }) => kind === 'schema' && type === 'number');
  if (read) return from(read).map(String);
  if (actions.some(({ type }) => type === 'uuid')) return fc.uuid();
  if (actions.some(({ type }) => type === 'iso_timestamp')) {
    return fc.date({ min: new Date('2000-01-01'), max: new Date('2100-01-01'), noInvalidDate: true }).map((date) => date.toISOString());
  }
  const pattern = actions.find(({ type }) => type === 'regex')?.requirement;
  if (pattern instanceof RegExp) return textsLike(pattern).filter((text) => text.length <= (limit('max_length') ?? Infinity));
  const words = textsLike(/^[a-zA-Zäßéł0-9 .-]{1,8}$/).filter((text) => text.trim() !== '');
  const most = limit('max_length') ?? 1000;
  return words.map((text) => text.slice(0, most)).filter((text) => text.trim() !== '');
}
