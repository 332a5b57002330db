export { findCycle, findJoining, type Cycle, type Joining } from './find';
export { isLoop, playLane, type LaneMade, type PlacedClip } from './lane';
export { laneFrames, type Length } from './length';
export { makePiece, MOST_FRAMES as MOST_REEL_FRAMES, type Piece, type Source as ReelSource } from './piece';
export { aboutLane, plays, withTouches, type OnStage } from './touch';
export { slideOf, standStill } from './stand';
