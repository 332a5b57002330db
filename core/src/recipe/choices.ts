/** Decisions about a skeleton, a pairing and a take: plain data with limits, every part with a default. */
import * as v from 'valibot';
import { roleSchema } from '../label';
import { byJointSchema } from './byJoint';
import { nameTableSchema, takeFaceSchema, takeSoundSchema } from './face';

const finite = v.pipe(v.number(), v.finite());
const within = (low: number, high: number) => v.pipe(finite, v.minValue(low), v.maxValue(high));
const text = (max: number) => v.pipe(v.string(), v.minLength(1), v.maxLength(max));

export const UP_CHOICES = ['+X', '-X', '+Y', '-Y', '+Z', '-Z'] as const;

/** Turns by hand, in degrees about the body's left, the vertical and the way ahead, by role. */
const turnsSchema = v.record(roleSchema, v.tuple([within(-180, 180), within(-180, 180), within(-180, 180)]));
export type Turns = v.InferOutput<typeof turnsSchema>;

const jointKey = v.pipe(v.string(), v.maxLength(400));
const rotation = v.tuple([finite, finite, finite, finite]);

/** A rest pose kept by name: local rotations (x, y, z, w) by joint key. */
export const savedRestSchema = v.object({
  name: text(120),
  rotations: v.record(jointKey, rotation),
});
export type SavedRest = v.InferOutput<typeof savedRestSchema>;

/**
 * Measures of one file that hold for all files of its skeleton, so that every take of a performer has the same unit, up axis,
 * rest pose and feet. Metres and Y up but for `metres`; the pose is upright.
 */
const referenceSchema = v.object({
  /** The file that it was measured on, for people. */
  name: v.pipe(v.string(), v.maxLength(400)),
  unit: v.picklist(['m', 'cm', 'mm', 'inch', 'foot', 'unknown']),
  /** Metres per unit of the file. */
  metres: within(1e-9, 1e9),
  unitReason: v.pipe(v.string(), v.maxLength(400)),
  up: v.picklist(UP_CHOICES),
  upReason: v.pipe(v.string(), v.maxLength(400)),
  rest: v.object({
    source: v.picklist(['file', 'frame', 'kept']),
    frame: v.nullable(v.pipe(finite, v.integer(), v.minValue(0))),
    score: finite,
    reason: v.pipe(v.string(), v.maxLength(1000)),
    /** Local rotations by joint key, and places of the roots. */
    rotations: v.record(jointKey, rotation),
    places: v.record(jointKey, v.tuple([finite, finite, finite])),
  }),
  sole: v.object({ depth: finite, known: v.picklist(['mesh', 'rest', 'take', 'no']) }),
  /** How far heel, ball and toe tip lie from under the ankle along each foot. */
  feet: v.pipe(
    v.array(v.object({ side: v.picklist(['left', 'right']), heelBack: finite, ballAhead: finite, tipAhead: finite })),
    v.maxLength(2),
  ),
});
export type Reference = v.InferOutput<typeof referenceSchema>;

/** Points of a body that are watched for what they touch. */
export const PROBE_POINTS = [
  ...(['left', 'right'] as const).flatMap((side) =>
    (['heel', 'ball', 'tip', 'palm', 'knee'] as const).map((part) => `${side}.${part}` as const),
  ),
  'seat',
  'back',
  'head',
] as const;
export type ProbePoint = (typeof PROBE_POINTS)[number];
const metres = within(-0.5, 0.5);
/** Points moved by hand from where they were found: metres to the body's left, up and ahead, at rest. */
const pointsSchema = v.record(v.picklist(PROBE_POINTS), v.tuple([metres, metres, metres]));
export type Points = Partial<Record<ProbePoint, readonly [left: number, up: number, ahead: number]>>;

/** The same point on the other side, and where it lies there. */
export function mirrorPoint(name: ProbePoint, [left, up, ahead]: [number, number, number]): [ProbePoint, [number, number, number]] {
  const other = name.replace(/^(left|right)/, (side) => (side === 'left' ? 'right' : 'left')) as ProbePoint;
  return [other, other === name ? [left, up, ahead] : [-left, up, ahead]];
}

/** Decisions about one skeleton; null leaves a guess as it is. */
export const skeletonChoicesSchema = v.object({
  /** Metres per unit of the file. */
  unit: v.nullable(within(1e-5, 1e4)),
  up: v.nullable(v.picklist(UP_CHOICES)),
  /** Degrees from +Z towards +X that the rest pose faces. */
  facing: v.nullable(within(-360, 360)),
  /** Joint key of every role; null labels automatically. */
  labels: v.nullable(v.record(roleSchema, jointKey)),
  /** Where the rest pose comes from: found, the file's own, or one that was kept. */
  rest: v.union([v.picklist(['auto', 'file']), savedRestSchema]),
  /** Edits by hand over that pose. */
  turns: turnsSchema,
  /** Watched points that were moved by hand; none where nothing is said. */
  points: v.optional(pointsSchema),
  /** The measures shared by all files of the skeleton; null measures the file itself. Labels, unit, up axis and rest that are
   * changed ask for a new one. */
  reference: v.optional(v.nullable(referenceSchema), null),
});
export type SkeletonChoices = v.InferOutput<typeof skeletonChoicesSchema>;
export const DEFAULT_SKELETON: SkeletonChoices = {
  unit: null,
  up: null,
  facing: null,
  labels: null,
  rest: 'auto',
  turns: {},
  reference: null,
};

/** The driver of a joint of the character: the performer's role `a`, or the way from `a` to `b`; null cuts it. */
const rungSchema = v.nullable(v.object({ a: roleSchema, b: roleSchema, t: within(0, 1) }));
export type Rung = v.InferOutput<typeof rungSchema>;

/** Decisions about one pairing. */
export const pairingChoicesSchema = v.object({
  /** Horizontal scale: by leg length, the performer's marks kept, or a number. */
  stride: v.union([v.picklist(['legs', 'marks']), within(0.05, 20)]),
  /** Vertical scale: by hip height, or a number. */
  lift: v.union([v.literal('hips'), within(0.05, 20)]),
  /** How far clavicles and head are turned to the performer's rest: by a word, or by a share between both. */
  clavicles: v.union([v.picklist(['keep', 'match']), within(0, 1)]),
  head: v.union([v.picklist(['keep', 'match']), within(0, 1)]),
  /** The same for palms and thumbs: 1 lies as the performer's, 0 as the character's own. */
  palms: v.optional(within(0, 1), 1),
  thumbs: v.optional(within(0, 1), 1),
  /** Turns by hand over the rest match, on the character. */
  turns: v.optional(turnsSchema, {}),
  /** Rungs set by hand, by the character's role; roles left out are linked automatically. */
  links: v.optional(v.record(roleSchema, rungSchema), {}),
  /** Extra chains of the character by name, and the performer's extra chain that drives each; null leaves it at rest. */
  extras: v.optional(v.record(text(60), v.nullable(text(60))), {}),
  /** Size of the character's props over the performer's; null: the same things, or as the bodies are to each other where both are one. */
  props: v.optional(v.nullable(within(0.01, 100)), null),
  /** Joint by joint instead of by parts of the body; null goes by parts of the body. */
  byJoint: v.optional(v.nullable(byJointSchema), null),
  /** Which face channels drive which shapes; null is as their names propose. */
  face: v.optional(v.nullable(nameTableSchema), null),
});
export type PairingSettings = v.InferOutput<typeof pairingChoicesSchema>;
export const DEFAULT_PAIRING: PairingSettings = {
  stride: 'legs',
  lift: 'hips',
  clavicles: 'keep',
  head: 'keep',
  palms: 1,
  thumbs: 1,
  turns: {},
  links: {},
  extras: {},
  props: null,
  byJoint: null,
  face: null,
};

/** Parts of the body that are smoothed apart; the hips go with the legs. */
export const SMOOTHED_PARTS = ['trunk', 'head', 'arms', 'hands', 'legs'] as const;
export type SmoothedPart = (typeof SMOOTHED_PARTS)[number];
const cutoff = v.nullable(within(0.1, 200));

/** Plants that a person adds or takes away, in the take's own seconds: they hold through every new detection. */
const plantEditSchema = v.pipe(
  v.object({
    kind: v.picklist(['add', 'remove']),
    side: v.picklist(['left', 'right']),
    part: v.picklist(['heel', 'ball']),
    from: within(0, 1e6),
    to: within(0, 1e6),
    /** Of a plant that is added: metres over the floor of what the foot stands on; null is the floor. */
    height: v.optional(v.nullable(within(-10, 100)), null),
  }),
  v.check(({ from, to }) => from <= to, 'a plant must begin before it ends'),
);
export type PlantEdit = v.InferOutput<typeof plantEditSchema>;

/** Touches of hands that a person adds or takes away: a hand that rests on something, on the own body or on a prop, or both that meet. */
const touchEditSchema = v.pipe(
  v.object({
    kind: v.picklist(['add', 'remove']),
    on: v.picklist(['rest', 'hand', 'body', 'prop']),
    /** Of a touch on the body or on a prop: the part. */
    part: v.optional(v.nullable(roleSchema)),
    /** Of hands that meet the left one is named. */
    side: v.picklist(['left', 'right']),
    from: within(0, 1e6),
    to: within(0, 1e6),
  }),
  v.check(({ from, to }) => from <= to, 'a touch must begin before it ends'),
  v.check(({ on, side }) => on !== 'hand' || side === 'left', 'hands that meet are kept by the left one'),
  v.check(
    ({ on, part }) => (on === 'body' || on === 'prop') === (typeof part === 'string'),
    'a touch on the body or on a prop, and no other, names the part',
  ),
);
export type TouchEdit = v.InferOutput<typeof touchEditSchema>;

/** Rests of the body that a person adds or takes away: a knee, the seat, the back or the head on the floor. */
const bodyEditSchema = v.pipe(
  v.object({
    kind: v.picklist(['add', 'remove']),
    part: v.picklist(['left.knee', 'right.knee', 'seat', 'back', 'head']),
    from: within(0, 1e6),
    to: within(0, 1e6),
  }),
  v.check(({ from, to }) => from <= to, 'a rest must begin before it ends'),
);
export type BodyEdit = v.InferOutput<typeof bodyEditSchema>;

/**
 * How readily plants and touches are found: factors on the speeds and heights below which something rests; where the floor lies,
 * metres, and how it slopes; null where that is found. Degrees, uphill `toward` a heading: 0 is +Z, 90 is +X.
 */
const detectionSchema = v.object({
  feetSpeed: v.optional(within(0.2, 5), 1),
  feetHeight: v.optional(within(0.2, 5), 1),
  handsSpeed: v.optional(within(0.2, 5), 1),
  floor: v.optional(v.nullable(within(-10, 100)), null),
  slope: v.optional(v.nullable(v.object({ degrees: within(0, 45), toward: within(-180, 180) })), null),
});
export type Detection = v.InferOutput<typeof detectionSchema>;
export const DEFAULT_DETECTION: Detection = { feetSpeed: 1, feetHeight: 1, handsSpeed: 1, floor: null, slope: null };

const MOST_EDITS = 5000;

/** A correction of the floor at one moment, in the take's own seconds: added to what holds for the whole take. */
const floorKeySchema = v.object({
  at: within(0, 1e6),
  /** Metres up, degrees about the vertical, metres over the floor. */
  height: v.optional(within(-10, 10), 0),
  heading: v.optional(within(-360, 360), 0),
  place: v.optional(v.tuple([within(-1000, 1000), within(-1000, 1000)]), [0, 0]),
});
export type FloorKey = v.InferOutput<typeof floorKeySchema>;

/** Decisions about one take. */
export const takeChoicesSchema = v.pipe(
  v.object({
    /** In and out in the take's own seconds, as the file counts them; null is the take's own start or end. */
    from: v.nullable(within(0, 1e6)),
    to: v.nullable(within(0, 1e6)),
    /** Metres added to all heights, degrees about the vertical, metres over the floor. */
    floor: v.object({
      height: within(-10, 10),
      heading: within(-360, 360),
      place: v.tuple([within(-1000, 1000), within(-1000, 1000)]),
      /** The same over time, for floors and headings that drift; none where nothing is said. */
      keys: v.optional(
        v.pipe(
          v.array(floorKeySchema),
          v.maxLength(500),
          v.check((keys) => new Set(keys.map(({ at }) => at)).size === keys.length, 'two keys of the floor stand at one moment'),
        ),
      ),
    }),
    clean: v.object({
      gaps: v.boolean(),
      spikes: v.boolean(),
      /** Steps that do not come back are eased over the frames about them. */
      jumps: v.optional(v.boolean(), false),
      /** Faults that are repaired one by one, in the take's own seconds; a joint by its name, null the whole body. */
      mended: v.optional(
        v.pipe(
          v.array(
            v.object({
              kind: v.picklist(['gap', 'repeat', 'spike', 'jump']),
              from: within(0, 1e6),
              to: within(0, 1e6),
              joint: v.nullable(v.pipe(v.string(), v.maxLength(200))),
            }),
          ),
          v.maxLength(MOST_EDITS),
        ),
        [],
      ),
      /** Cut-off of the low-pass in Hz, null leaves the part as it is. */
      cutoff: v.object({ trunk: cutoff, head: cutoff, arms: cutoff, hands: cutoff, legs: cutoff }),
    }),
    /** Frames per second that it was recorded at, where the file says none or a wrong one; null believes the file. */
    rate: v.nullable(within(1, 1000)),
    /** Frames per second to resample to; null keeps the take's. */
    fps: v.nullable(within(1, 480)),
    /** It plays backwards, from its out to its in. */
    reversed: v.optional(v.boolean()),
    /** Seconds over which its ends are drawn together in what is delivered of it, so that it plays on end; 0 or nothing leaves them. */
    loop: v.optional(within(0, 5)),
    plants: v.optional(v.pipe(v.array(plantEditSchema), v.maxLength(MOST_EDITS)), []),
    touches: v.optional(v.pipe(v.array(touchEditSchema), v.maxLength(MOST_EDITS)), []),
    /** Rests of the body that were changed by hand, and how readily all of them are found; as usual where nothing is said. */
    rests: v.optional(v.pipe(v.array(bodyEditSchema), v.maxLength(MOST_EDITS))),
    detection: v.optional(detectionSchema),
    /** The face that was recorded with it, and the sound; none where nothing is said. */
    face: v.optional(v.nullable(takeFaceSchema)),
    sound: v.optional(v.nullable(takeSoundSchema)),
  }),
  v.check(({ from, to }) => from === null || to === null || from < to, 'the in handle must lie before the out handle'),
);
export type TakeChoices = v.InferOutput<typeof takeChoicesSchema>;
export const DEFAULT_TAKE: TakeChoices = {
  from: null,
  to: null,
  floor: { height: 0, heading: 0, place: [0, 0] },
  clean: { gaps: false, spikes: false, jumps: false, mended: [], cutoff: { trunk: null, head: null, arms: null, hands: null, legs: null } },
  rate: null,
  fps: null,
  plants: [],
  touches: [],
};

/** Limbs that are set one by one. */
export const LIMB_NAMES = ['leftArm', 'rightArm', 'leftLeg', 'rightLeg'] as const;
export type LimbName = (typeof LIMB_NAMES)[number];
const share = v.optional(within(0, 1), 1);
const followSchema = v.object({ leftArm: share, rightArm: share, leftLeg: share, rightLeg: share });

/** Decisions about a solve. */
export const solveChoicesSchema = v.object({
  /** Where the character's floor lies: where the take's does, scaled; or at height zero. */
  floor: v.picklist(['take', 'zero']),
  inPlace: v.boolean(),
  /** Frames per second of the result; null keeps the take's. */
  fps: v.nullable(within(1, 480)),
  /** Pose and root only: nothing is held. */
  plain: v.optional(v.boolean(), false),
  /** How far hands follow what they touch: 1 holds them, 0 lets them go with the pose. */
  hands: v.optional(within(0, 1), 1),
  /** Hands stay out of the character's own trunk and head. */
  keepOut: v.optional(v.boolean(), true),
  /** Legs stay out of each other. */
  apart: v.optional(v.boolean(), true),
  /** Hips go aside so that the weight stays over the feet as the performer's does, by so much. */
  balance: v.optional(within(0, 1), 0),
  /** How far each limb comes to the place that it shall hold: 1 all the way, 0 stays with the pose. */
  follow: v.optional(followSchema, {}),
  /** How far clavicles and spine come along when an arm is too short. */
  clavicleHelp: v.optional(within(0, 1), 0.5),
  spineHelp: v.optional(within(0, 1), 0.5),
  /** Share of its length beyond which a leg bends the hips rather than straighten further. */
  softReach: v.optional(within(0.9, 1), 0.985),
  /** Share of their length by which limbs may be drawn out where they are too short, on files that can state it. */
  stretch: v.optional(within(0, 0.3), 0),
  /** How loosely tails and other extra chains swing after the body: 0 not at all, 1 most. */
  tails: v.optional(within(0, 1), 0),
});
export type SolveDecisions = v.InferOutput<typeof solveChoicesSchema>;
export const DEFAULT_DECISIONS: SolveDecisions = v.parse(solveChoicesSchema, { floor: 'take', inPlace: false, fps: null });

/** The decisions about a solve in a wider record. */
export function decisionsOf(all: SolveDecisions): SolveDecisions {
  return pick(all, Object.keys(solveChoicesSchema.entries)) as SolveDecisions;
}

/** The decisions about a pairing in a wider record. */
export function pairingOf(all: PairingSettings): PairingSettings {
  return pick(all, Object.keys(pairingChoicesSchema.entries)) as PairingSettings;
}

function pick(all: object, keys: readonly string[]): object {
  return Object.fromEntries(Object.entries(all).filter(([key]) => keys.includes(key)));
}

/** Decisions about the file that is delivered; null takes the character's own format. */
export const deliveryChoicesSchema = v.object({
  format: v.nullable(v.picklist(['bvh', 'glb'])),
  /** Name of the motion inside the file; null takes the take's. */
  title: v.nullable(text(400)),
  /** Of a GLB file: the motion on bare nodes, without mesh and pictures. */
  bare: v.optional(v.boolean(), false),
  /** Keys are left out of a GLB file as long as hands, feet and head stay within so many millimetres; null keeps all. */
  tolerance: v.optional(v.nullable(within(0.01, 100)), null),
  /** Seconds over which both ends are drawn together so that the motion can be played on end; 0 leaves it as it is. */
  loop: v.optional(within(0, 5), 0),
  /** Of a BVH file: joints without a role are written too. */
  unlabelled: v.optional(v.boolean(), true),
  /** Of a BVH file: metres per unit, and the axis that points up; null is as the character came. */
  unit: v.optional(v.nullable(within(1e-5, 1e4)), null),
  up: v.optional(v.nullable(v.picklist(UP_CHOICES)), null),
});
export type DeliveryChoices = v.InferOutput<typeof deliveryChoicesSchema>;
export const DEFAULT_DELIVERY: DeliveryChoices = v.parse(deliveryChoicesSchema, { format: null, title: null });
