export * from './choices';
export * from './recipe';
export * from './touchUps';
export { joinChoices, JOIN_PARTS, type Joinable, type JoinPart } from './join';
export * from './layers';
export * from './byJoint';
export * from './reel';
export * from './face';
export * from './fit';
