import type { Found } from '../figure';
import type { Scene } from '../scene';
import { elbows, hips, knees, neck, wrists } from './calm';
import { float, hover, sink, slide } from './floor';
import { grip, meet, touch } from './hands';
import { held } from './held';
import { inside } from './inside';
import { jumps } from './jumps';
import { lag } from './lag';
import { crossing } from './crossing';
import { energyOfLegs, energyOfUpper } from './energy';
import { flight } from './flight';
import { momentOfArms, momentOfLegs } from './moments';
import { order } from './order';
import { likenessOfFeet, likenessOfFingers, likenessOfHands, likenessOfHead, likenessOfTrunk } from './parts';
import { placesOfFeet, placesOfHands } from './places';
import { timingOfFeet, timingOfHands } from './timing';
import { likenessOfArms, likenessOfLegs, mirrored } from './likeness';
import { parting } from './parting';
import { pull } from './pull';
import { flips, frozen } from './still';
import { leftOut } from './leftOut';
import { stretched, twist } from './turns';

/** A part of the judge: looks at a scene and says what it found. */
export type Measure = (scene: Scene) => Found | readonly Found[];

/** The judge's measures, in the order of its figures. */
export const MEASURES: readonly Measure[] = [
  held,
  meet,
  touch,
  inside,
  grip,
  slide,
  sink,
  float,
  hover,
  knees,
  elbows,
  hips,
  wrists,
  neck,
  jumps,
  flips,
  twist,
  likenessOfArms,
  likenessOfLegs,
  likenessOfTrunk,
  likenessOfHead,
  likenessOfHands,
  likenessOfFingers,
  likenessOfFeet,
  momentOfArms,
  momentOfLegs,
  energyOfUpper,
  energyOfLegs,
  placesOfFeet,
  placesOfHands,
  crossing,
  flight,
  timingOfFeet,
  timingOfHands,
  order,
  mirrored,
  pull,
  parting,
  lag,
  frozen,
  stretched,
  leftOut,
];
