import * as v from 'valibot';
import { fail } from '../errors';
import { makeSkeleton, type Skeleton } from '../skeleton';
import { shortened } from '../text';

export const STREAM_FORMAT = 'hollow-stride/stream';
/** More joints are refused: no body that is captured has as many. */
export const MOST_STREAM_JOINTS = 400;
/** Fastest stream, frames a second. */
export const FASTEST_STREAM = 500;

const finite = v.pipe(v.number(), v.finite());
const coordinate = v.pipe(finite, v.minValue(-1e5), v.maxValue(1e5));
const jointSchema = v.object({
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  /** Place of the parent in the list, before the joint; −1 for the root, which is the first. */
  parent: v.pipe(v.number(), v.integer(), v.minValue(-1), v.maxValue(MOST_STREAM_JOINTS)),
  /** At rest, from the parent. */
  offset: v.tuple([coordinate, coordinate, coordinate]),
  /** Where the bone of a joint without children ends, from the joint. */
  tip: v.optional(v.tuple([coordinate, coordinate, coordinate])),
});

/** How a stream opens: the skeleton that its frames move. Joints have no turns of their own at rest. */
export const openingSchema = v.object({
  format: v.literal(STREAM_FORMAT),
  version: v.literal(1),
  /** Of who or what sends, for people. */
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(80)),
  /** The same where a sender comes back after a lost line: its frames go on counting. */
  session: v.pipe(v.string(), v.regex(/^[A-Za-z0-9-]{8,64}$/, 'is 8 to 64 letters, digits and hyphens')),
  /** Frames a second that it means to send. */
  rate: v.pipe(finite, v.minValue(1), v.maxValue(FASTEST_STREAM)),
  /** Metres per unit of offsets and places. */
  metres: v.pipe(finite, v.minValue(1e-6), v.maxValue(1e6)),
  up: v.picklist(['+Y', '+Z']),
  joints: v.pipe(v.array(jointSchema), v.minLength(1), v.maxLength(MOST_STREAM_JOINTS)),
});
export type Opening = v.InferOutput<typeof openingSchema>;

/** Reads how a stream opens. @throws FaultError stream/opening with what is wrong and where */
export function parseOpening(text: string): Opening {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    fail('stream/opening', 'the opening is not valid JSON');
  }
  const result = v.safeParse(openingSchema, json);
  if (!result.success) {
    const [issue] = result.issues;
    const path = issue.path?.map(({ key }) => String(key)).join('.') ?? '';
    fail('stream/opening', `the opening is not valid at ${shortened(path, 80) || 'its top'}: ${issue.message}`);
  }
  const opening = result.output;
  opening.joints.forEach(({ parent, name }, j) => {
    if (parent >= j || (j > 0 && parent < 0)) {
      fail(
        'stream/opening',
        j === 0 ? 'the first joint is the root and has no parent' : 'a joint comes after its parent, and there is one root',
        {
          joint: name,
        },
      );
    }
  });
  return opening;
}

/** The skeleton of a stream, in its own unit and axes. */
export function skeletonOfStream({ joints }: Opening): Skeleton {
  return makeSkeleton({
    names: joints.map(({ name }) => name),
    parents: joints.map(({ parent }) => parent),
    restT: joints.flatMap(({ offset }) => offset),
    tips: joints.flatMap(({ tip }) => tip ?? [NaN, NaN, NaN]),
  });
}
