import type { Clip } from '@hollow-stride/core';

/** A clip of its own buffers, to be handed over. */
export function copyClip(clip: Clip): Clip {
  return { ...clip, rotations: clip.rotations.slice(), moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() })) };
}

/** The buffers of clips that are handed over. */
export function buffersOf(...clips: readonly Clip[]): ArrayBuffer[] {
  return clips.flatMap((clip) => [clip.rotations, ...clip.moves.map((m) => m.values)]).map((a) => a.buffer as ArrayBuffer);
}
