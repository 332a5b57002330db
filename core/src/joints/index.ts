export { applyRule, nameLikeness } from './names';
export { pairJoints, type JointMap, type JointPair, type Jointed, type NameClash, type PairReason } from './pairs';
export { carryJoints } from './carry';
export { heldTo, layInto, type Laid } from './into';
export { leastCost } from './assignment';
