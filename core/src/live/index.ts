export { FASTEST_STREAM, MOST_STREAM_JOINTS, openingSchema, parseOpening, skeletonOfStream, STREAM_FORMAT, type Opening } from './opening';
export { frameBytes, readFrame, writeFrame, type StreamFrame } from './frame';
export { StreamReceiver, type StreamCount } from './receiver';
export { clipOfFrames, fileOfStream, writeRecorded, type Recorded, type StreamGap } from './recorded';
export { sendable, type Sendable } from './send';
