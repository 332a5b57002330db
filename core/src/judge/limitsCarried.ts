import type { Limit } from './limit';

/** Limits of what is copied channel by channel: pairings joint by joint, and faces. */
export const CARRIED_LIMITS = {
  'joints.turns': {
    name: 'turns carried',
    what: 'of a pairing joint by joint: by how much a joint is turned from its rest otherwise than its partner; worst joint and frame',
    unit: '°',
    places: 2,
    good: 0.1,
    fault: 1,
    why: 'turns are copied: what differs is a fault of the copy, and a degree of a long jib is seen at its hook',
  },
  'joints.places': {
    name: 'places carried',
    what: 'of a pairing joint by joint: how far a joint is moved otherwise than its partner, scaled; worst joint and frame',
    unit: 'mm',
    places: 1,
    good: 1,
    fault: 10,
    why: 'places are copied too; a centimetre is seen where things meet',
  },
  'joints.left': {
    name: 'motion left over',
    what: 'of a pairing joint by joint: moving joints of the performer that drive nothing, in share of all that move',
    unit: '%',
    places: 0,
    good: 0,
    fault: 50,
    why: 'one joint without a partner may be meant; half of the motion gone is not',
  },
  'face.shapes': {
    name: 'face, shapes',
    what: 'by how much a face shape is elsewhere than its channels say, in share of its full; worst shape and frame of the recording',
    unit: '%',
    places: 1,
    good: 1,
    fault: 10,
    why: 'shapes are copied: a tenth of a blink or a mouth that comes late is seen, a hundredth is not',
  },
  'face.joints': {
    name: 'face, joints',
    what: 'by how much eyes and jaw that are joints are turned otherwise than their channels say; worst joint and frame',
    unit: '°',
    places: 1,
    good: 0.5,
    fault: 3,
    why: 'where eyes look is seen to a degree or two',
  },
  'face.left': {
    name: 'face, left over',
    what: 'channels of the recording that move and drive nothing, in share of all that move',
    unit: '%',
    places: 0,
    good: 90,
    fault: 99.5,
    why: 'a face of few shapes takes few channels; one that takes none does not play',
  },
} as const satisfies Record<string, Limit>;
