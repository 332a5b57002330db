export { standUp, type MeshBody } from './body';
export { findLandmarks, sectionsOf, type Found, type Sections } from './find/find';
export { trunkMiddle } from './find/head';
export { landmarkNames, mirrored, type Landmarks, type Place } from './landmarks';
export { skeletonOf, type FittedSkeleton } from './skeleton';
export { bindPoints, type Frame, type OnShare } from './weights';
export { guessStand, type GuessedStand } from './stand';
