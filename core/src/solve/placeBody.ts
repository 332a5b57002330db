import type { PosePlan } from './plan';
import type { RootPath } from './root';

/** Sets the translations that place a body in a frame: of the joint that carries it, and of the ground joint. */
export function placeBody(
  translations: Float64Array,
  { plan: { mover, ground }, root }: { readonly plan: PosePlan; readonly root: RootPath },
  frame: number,
): void {
  for (let c = 0; c < 3; c++) translations[mover * 3 + c] = root.moves[frame * 3 + c];
  if (ground >= 0) for (let c = 0; c < 3; c++) translations[ground * 3 + c] = root.ground[frame * 3 + c];
}
