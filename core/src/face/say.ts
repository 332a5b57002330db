import type { FaceReason } from './propose';

/** Why channels drive a shape, in words. */
export const FACE_REASONS: Readonly<Record<FaceReason, string>> = {
  same: 'the same name',
  alike: 'a name alike',
  together: 'both sides together',
  both: 'one for both sides',
  hand: 'by hand',
  none: 'stays at rest',
};

/** Channels with their shares, as people read a sum. */
export function sumText(from: readonly { readonly channel: string; readonly weight: number }[]): string {
  return from.map(({ channel, weight }) => (weight === 1 ? channel : `${Number(weight.toFixed(2))} × ${channel}`)).join(' + ');
}
