import { withTracks, type Clip } from '@hollow-stride/core';

/** A clip of its own buffers, to be handed over. */
export function copyClip(clip: Clip): Clip {
  return { ...withTracks(clip, (values) => values.slice()), rotations: clip.rotations.slice() };
}

/** The buffers of clips that are handed over. */
export function buffersOf(...clips: readonly Clip[]): ArrayBuffer[] {
  return clips
    .flatMap((clip) => [clip.rotations, ...[...clip.moves, ...(clip.sizes ?? [])].map(({ values }) => values)])
    .map((a) => a.buffer as ArrayBuffer);
}
