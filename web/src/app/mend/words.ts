import type { LayerFrame, LayerKind, LayerPart } from '@hollow-stride/core';

/** What each kind of layer is called, and what it does. */
export const NAMES: Readonly<Record<LayerKind, string>> = {
  turns: 'turns of joints',
  reach: 'reach',
  calm: 'calm',
  spikes: 'spikes mended',
  bridge: 'gap closed',
  amount: 'more or less motion',
  mirror: 'mirror',
};
export const SAYS: Readonly<Record<LayerKind, string>> = {
  turns: 'Keyed turns of joints, added to the motion or in its place',
  reach: 'Hands, feet, hips or head moved by keys; limbs and trunk follow',
  calm: 'What is quicker than some time is taken out, without delay',
  spikes: 'Single frames that stick out, and jumps, are mended',
  bridge: 'The motion between two moments is drawn anew from both sides',
  amount: 'The slow part of the motion made larger or smaller',
  mirror: 'Left and right exchanged',
};
/** One icon a kind, always beside its name. */
export const ICONS: Readonly<Record<LayerKind, string>> = {
  turns: 'bi-arrow-repeat',
  reach: 'bi-arrows-move',
  calm: 'bi-water',
  spikes: 'bi-bandaid',
  bridge: 'bi-link-45deg',
  amount: 'bi-plus-slash-minus',
  mirror: 'bi-symmetry-vertical',
};
export const PART_NAMES: Readonly<Record<LayerPart, string>> = {
  way: 'hips and way',
  trunk: 'trunk',
  head: 'head',
  'left.arm': 'left arm',
  'right.arm': 'right arm',
  'left.leg': 'left leg',
  'right.leg': 'right leg',
};
const FRAME_NAMES: Readonly<Record<string, string>> = {
  world: 'the stage',
  hips: 'the hips',
  chest: 'the chest',
  'left.hand': 'the left hand',
  'right.hand': 'the right hand',
};

/** What a place goes with, for people; a thing beside the body by its name. */
export const frameName = (frame: LayerFrame): string => FRAME_NAMES[frame] ?? `the ${frame.split('.')[1]}`;
/** The three amounts of a key, by what it keys: turns about the body's left, up and ahead, or ways along them. */
export const AMOUNTS = {
  turns: ['forward', 'around', 'aside'],
  reach: ['left', 'up', 'ahead'],
} as const;
