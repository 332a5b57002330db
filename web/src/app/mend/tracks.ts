import type { LayerKey, ReachTrack, TurnTrack } from '@hollow-stride/core';

/** What a layer keys: the turns of a joint, or the places of a limb end. */
export type Track = TurnTrack | ReachTrack;
export type Triple = [number, number, number];

export const keyAt = (at: number, value: Triple): LayerKey => ({ at, value, tangent: 'smooth', slope: null });

/** Name of what a track keys. */
export const nameOfTrack = (track: Track | undefined): string => (track ? ('role' in track ? track.role : track.end) : 'nothing');
