/** Limits of figures: good up to one value, a fault from another; one place, with reasons. */
export interface Limit {
  readonly name: string;
  /** For people: what is measured. */
  readonly what: string;
  readonly unit: string;
  readonly places: number;
  readonly good: number;
  readonly fault: number;
  /** True where more is better. */
  readonly rising?: boolean;
  /** Why the limits stand where they stand. */
  readonly why: string;
}

export const LIMITS = {
  'held.feet': {
    name: 'held, feet',
    what: 'share of the time that a heel, ball or toe tip of the performer rests in which the character’s does not move away',
    unit: '%',
    places: 1,
    good: 97,
    fault: 90,
    rising: true,
    why: 'a foot that leaves its place for a moment at either end of a stand is not seen; one that goes on moving is',
  },
  'held.hands': {
    name: 'held, hands',
    what: 'share of the time that a palm or the finger tips of the performer rest in which the character’s do not move away',
    unit: '%',
    places: 1,
    good: 95,
    fault: 80,
    rising: true,
    why: 'hands rest on things that are seen; a centimetre of play is hidden by the fingers',
  },
  'held.body': {
    name: 'held, body',
    what: 'the same for knees, seat, back and head',
    unit: '%',
    places: 1,
    good: 95,
    fault: 75,
    rising: true,
    why: 'a knee or a back is broad: small ways are not seen',
  },
  meet: {
    name: 'hands met',
    what: 'how far hands are from where they should be towards each other while the performer’s are next to each other',
    unit: 'mm',
    places: 0,
    good: 20,
    fault: 60,
    why: 'two hands that clap, pray or hold one rope and do not meet are seen at once; a finger’s width is not',
  },
  touch: {
    name: 'hands on body',
    what: 'how far palms are from the character’s own head, thighs and other arm while the performer’s are on them, but for a tenth of the time',
    unit: 'mm',
    places: 0,
    good: 40,
    fault: 120,
    why: 'a hand on a brow or a knee that ends in the air is seen; the thickness of a palm and of the mesh’s own edges is not',
  },
  inside: {
    name: 'hands in body',
    what: 'how deep palms or finger tips are in the character’s own trunk or head, but for a fiftieth of the time',
    unit: 'mm',
    places: 0,
    good: 15,
    fault: 60,
    why: 'skin and cloth give by a finger’s width; a hand in a head is seen from across the hall',
  },
  grip: {
    name: 'hands on props',
    what: 'way of palms on a thing beside the body that moves with the performer’s hands, but for a twentieth of the time',
    unit: 'mm',
    places: 0,
    good: 10,
    fault: 40,
    why: 'a hand that slips on a pole by a finger’s width is seen only from near; by a hand’s width the thing floats',
  },
  slide: {
    name: 'slide',
    what: 'way of resting feet over the floor',
    unit: 'mm/s',
    places: 1,
    good: 5,
    fault: 25,
    why: 'below 5 mm a second a standing foot looks still; a performer that slides more may be followed',
  },
  sink: {
    name: 'sink',
    what: 'deepest point of the skin below the floor',
    unit: 'mm',
    places: 1,
    good: 8,
    fault: 30,
    why: 'a sole gives by some millimetres; a hand or knee three centimetres down is gone',
  },
  float: {
    name: 'float',
    what: 'mean distance of the skin of resting feet from what they should rest on',
    unit: 'mm',
    places: 1,
    good: 6,
    fault: 20,
    why: 'a gap of more than a sole’s edge throws a shadow of its own',
  },
  hover: {
    name: 'body over floor',
    what: 'how far the skin of a hand, or of the body, stays over the floor while the performer’s rests on it',
    unit: 'mm',
    places: 0,
    good: 20,
    fault: 60,
    why: 'a hand or a seat that rests on air is seen at once; a finger’s width lies in its shadow',
  },
  knees: { ...calm('knees', 'bend of the knees'), why: 'knees show every correction of a foot: a third more is seen as a tremble' },
  elbows: { ...calm('elbows', 'bend of the elbows'), why: 'elbows are carried over as they are and have no cause to shake' },
  hips: { ...calm('hips', 'way of the hips'), why: 'what shakes in the hips shakes in the whole body' },
  wrists: { ...calm('wrists', 'turn of the hands'), good: 1.5, why: 'small turns at the end of an arm; somewhat more is not seen' },
  neck: { ...calm('neck', 'turn of the head'), why: 'eyes follow a head' },
  jumps: {
    name: 'jumps',
    what: 'how far a point of the body leaves its way from one frame to the next as the performer’s does not',
    unit: 'mm',
    places: 0,
    good: 15,
    fault: 40,
    why: 'one frame in which a foot stands elsewhere is seen as a flicker, and no mean over a take tells of it',
  },
  flips: {
    name: 'flips',
    what: 'turns by over 30° from one frame to the next that the performer does not make',
    unit: '',
    places: 0,
    good: 0,
    fault: 1,
    why: 'one is one too many',
  },
  twist: {
    name: 'twist',
    what: 'greatest turn about a bone beyond the performer’s own',
    unit: '°',
    places: 0,
    good: 120,
    fault: 165,
    why: 'a mesh closes like a sweet paper beyond',
  },
  'likeness.arms': {
    name: 'likeness, arms',
    what: 'mean angle between the performer’s arm segments and the character’s',
    unit: '°',
    places: 1,
    good: 4,
    fault: 12,
    why: 'arms are not moved by anything here; more says that rest poses or labels do not agree',
  },
  'likeness.legs': {
    name: 'likeness, legs',
    what: 'mean angle between the performer’s legs and the character’s',
    unit: '°',
    places: 1,
    good: 8,
    fault: 18,
    why: 'thighs and shins of other proportions must stand a little otherwise for feet to be in place',
  },
  'likeness.trunk': { ...likeness('trunk', 'chest'), why: 'the chest is carried over as it is' },
  'likeness.head': { ...likeness('head', 'head'), why: 'where a head looks is the first thing that is seen' },
  'likeness.hands': { ...likeness('hands', 'hands'), good: 15, fault: 35, why: 'hands that rest turn to what they rest on' },
  'likeness.fingers': {
    name: 'likeness, fingers',
    what: 'mean difference of the bend of a finger, worst finger',
    unit: '°',
    places: 0,
    good: 20,
    fault: 40,
    why: 'a hand that is open where the performer’s is a fist is seen',
  },
  'likeness.feet': {
    name: 'likeness, feet',
    what: 'angle over the floor between the performer’s feet and the character’s while they rest, but for a tenth of the rests',
    unit: '°',
    places: 0,
    good: 5,
    fault: 15,
    why: 'toes that point inward or outward otherwise change the walk of a person',
  },
  'moment.arms': {
    name: 'worst moment, arms',
    what: 'angle between the performer’s arm and the character’s in the worst quarter of a second, beyond the usual one',
    unit: '°',
    places: 0,
    good: 20,
    fault: 35,
    why: 'an arm that is elsewhere for a moment is lost in a mean, and seen by everyone',
  },
  'moment.legs': {
    name: 'worst moment, legs',
    what: 'the same for thighs and shins',
    unit: '°',
    places: 0,
    good: 18,
    fault: 26,
    why: 'legs give way for their feet, but not all at once',
  },
  'energy.upper': {
    name: 'energy, upper body',
    what: 'how far the energy of motion of arms, chest and head is from the performer’s, worst direction and band',
    unit: '%',
    places: 0,
    good: 20,
    fault: 60,
    why: 'motion that is smoothed is the performer’s no longer, though every pose is near',
  },
  'energy.legs': {
    name: 'energy, legs',
    what: 'the same for thighs and shins',
    unit: '%',
    places: 0,
    good: 60,
    fault: 150,
    why: 'legs of other proportions move otherwise, but neither stiffly nor wildly',
  },
  'places.feet': {
    name: 'places, feet',
    what: 'how far over the floor a foot rests from where the performer’s directions put it, in share of the leg; worst rest',
    unit: '%',
    places: 1,
    good: 7,
    fault: 10,
    why: 'steps that are shorter, wider or narrower than the performer’s tell of another walk',
  },
  'places.hands': {
    name: 'places, hands',
    what: 'how far a hand rests from where the performer’s directions put it, in share of the arm; worst rest that touches nothing of the body’s own',
    unit: '%',
    places: 1,
    good: 10,
    fault: 25,
    why: 'a hand that holds still in another place holds another thing',
  },
  crossing: {
    name: 'limbs in body',
    what: 'how deep a limb is in another or in the trunk for a tenth of a second, in share of both half thicknesses, beyond the performer’s',
    unit: '%',
    places: 0,
    good: 35,
    fault: 60,
    why: 'cloth and flesh give way; a bone within another’s skin does not',
  },
  flight: {
    name: 'flight',
    what: 'how far the hips rise and fall otherwise than the performer’s while it is in the air, in share of its rise',
    unit: '%',
    places: 0,
    good: 10,
    fault: 20,
    why: 'a body in the air falls as everything falls: nothing may steer it',
  },
  'timing.feet': {
    name: 'timing, landings',
    what: 'by how much a foot lands after a flight at another time than the performer’s; worst landing',
    unit: 'frames',
    places: 2,
    good: 0.7,
    fault: 0.9,
    why: 'a landing has one frame; of more than sixty a second nobody sees one',
  },
  'timing.hands': {
    name: 'timing, hands',
    what: 'by how much a hand comes to a rest, or leaves it, at another time than the performer’s; worst end of a rest',
    unit: 'ms',
    places: 0,
    good: 50,
    fault: 130,
    why: 'a hand that comes late grasps air',
  },
  order: {
    name: 'order',
    what: 'frames that are missing, doubled or exchanged: the upper body makes another step there than the performer’s',
    unit: '',
    places: 0,
    good: 0,
    fault: 1,
    why: 'one frame out of order is seen as a stumble of the whole picture',
  },
  mirrored: {
    name: 'mirrored',
    what: 'the character does what the performer’s mirror image would',
    unit: '',
    places: 0,
    good: 0,
    fault: 1,
    why: 'left and right exchanged is a wrong label',
  },
  pull: {
    name: 'pull',
    what: 'most that an edge of the skin is drawn out, in share of the height',
    unit: '%',
    places: 1,
    good: 8,
    fault: 16,
    why: 'armpits and hips of a coarse mesh stretch by some percent; a torn body by half its height',
  },
  parting: {
    name: 'parting',
    what: 'most that a joint leaves its place at its parent, beyond what the take’s own does',
    unit: 'mm',
    places: 1,
    good: 1,
    fault: 5,
    why: 'bones have one length',
  },
  lag: {
    name: 'lag',
    what: 'time by which a limb follows the performer’s',
    unit: 'frames',
    places: 0,
    good: 0,
    fault: 2,
    why: 'nothing here may delay a limb',
  },
  frozen: {
    name: 'frozen',
    what: 'joints that stand still for half a second and longer while the performer’s move',
    unit: '',
    places: 0,
    good: 0,
    fault: 1,
    why: 'a joint that does not move has lost its link',
  },
  stretched: {
    name: 'stretched',
    what: 'frames with a knee or elbow at full stretch that the performer had bent',
    unit: '%',
    places: 1,
    good: 1,
    fault: 8,
    why: 'a limb that locks straight shows that its target is out of reach',
  },
  'left.out': {
    name: 'left out',
    what: 'share of the frames that the figures leave out as known faults of the take: gaps, spikes, a rest pose',
    unit: '%',
    places: 1,
    good: 10,
    fault: 50,
    why: 'what was not recorded cannot be judged, and must not be much',
  },
} as const satisfies Record<string, Limit>;

export type FigureId = keyof typeof LIMITS;
export const FIGURE_IDS = Object.keys(LIMITS) as FigureId[];

function likeness(name: string, what: string): Omit<Limit, 'why'> {
  return {
    name: `likeness, ${name}`,
    what: `angle between the performer’s ${what} and the character’s, but for a twentieth of the frames`,
    unit: '°',
    places: 0,
    good: 4,
    fault: 15,
  };
}

function calm(name: string, what: string): Omit<Limit, 'why'> {
  return {
    name,
    what: `jerks of the ${what} over the performer’s (99th percentile of acceleration; known faults of the take left out)`,
    unit: '×',
    places: 2,
    good: 1.3,
    fault: 2.5,
  };
}

export type Mark = 'good' | 'caution' | 'fault' | 'unseen';

/** From where on a value is good, and from where on a fault. */
export type Thresholds = Pick<Limit, 'good' | 'fault'>;
/** Limits that a person sets for a production, by figure; the program's own hold where nothing is set. */
export type FigureLimits = Partial<Record<FigureId, Thresholds>>;

/** True where more of a figure is better. */
export const isRising = (id: FigureId): boolean => (LIMITS[id] as Limit).rising === true;

/** The mark of a value by limits. @param value in the figure's unit; NaN where there was nothing to look at */
export function markBy(id: FigureId, value: number, { good, fault }: Thresholds): Mark {
  if (!Number.isFinite(value)) return 'unseen';
  if (isRising(id)) return value >= good ? 'good' : value >= fault ? 'caution' : 'fault';
  if (value <= good) return 'good';
  return value < fault ? 'caution' : 'fault';
}

/** Contradiction between limits, in words; undefined for none. */
export function limitFault(id: FigureId, { good, fault }: Thresholds): string | undefined {
  const { name, unit } = LIMITS[id];
  if (![good, fault].every((value) => Number.isFinite(value))) return `the limits of ${name} must be numbers`;
  const isApart = isRising(id) ? good >= fault : good <= fault;
  if (isApart) return undefined;
  const word = isRising(id) ? 'less' : 'more';
  return `${name}: good ${isRising(id) ? 'from' : 'up to'} ${good} ${unit} must not be ${word} than the fault limit, ${fault} ${unit}`.replace(
    / +/g,
    ' ',
  );
}

/** Limits in words: "good up to 5, fault from 25 mm/s". */
export function limitText(id: FigureId, { good, fault }: Thresholds): string {
  const { unit } = LIMITS[id];
  const text = isRising(id)
    ? `good from ${round(good)}, fault below ${round(fault)}`
    : `good up to ${round(good)}, fault from ${round(fault)}`;
  return unit === '' ? text : `${text} ${unit}`;
}

const round = (value: number): number => Math.round(value * 100) / 100;
