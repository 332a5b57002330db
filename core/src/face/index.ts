export { cleanFace } from './clean';
export { driveJoints, driveShapes, otherSides, respond, type FaceMotion, type FaceTime } from './drive';
export { columnOf, findFaceFaults, fullOf, type FaceFault, type FaceFaultKind } from './faults';
export { proposeNames, type FaceReason, type Proposal } from './propose';
export { clapsHeard, clapsSeen, matchClaps, soundPeaks, type Clap } from './sync';
export { FACE_REASONS, sumText } from './say';
export { resolveTable, type ResolvedRow, type ResolvedTable, type ResolvedTurns } from './table';
export { faceLikeness, readFaceNames, type FaceWords } from './words';
