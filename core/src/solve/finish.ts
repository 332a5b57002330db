import type { Pairing } from '../match';
import type { Finished, Parts } from './parts';
import { propMoves } from './props';
import { shifted, wayBetween, withoutTravel } from './root';
import type { SolveSettings } from './settings';

/** Places of the joints of limbs that are drawn out. */
function drawnOut({ character: { skeleton } }: Pairing, limbs: Parts['legs']): { joint: number; values: Float32Array }[] {
  return limbs.flatMap(({ drawn }) =>
    drawn
      ? drawn.joints.map((joint) => ({
          joint,
          values: Float32Array.from(
            { length: drawn.by.length * 3 },
            (_, i) => skeleton.restT[joint * 3 + (i % 3)] * (1 + drawn.by[(i / 3) | 0]),
          ),
        }))
      : [],
  );
}

type Finishing = Pick<Parts, 'pairing' | 'take' | 'contacts' | 'plan' | 'pose' | 'body' | 'pelvis' | 'legs' | 'props' | 'arms' | 'tails'>;

/** Puts the motion together: on its floor, travelling or in place. */
export function finish(
  { pairing, take, contacts, plan, pose, body, pelvis, legs, props, arms, tails: { rotations } }: Finishing,
  settings: Pick<SolveSettings, 'floor' | 'inPlace'>,
): Finished {
  const floor = contacts.floor * pairing.scale.lift;
  const drop = settings.floor === 'zero' ? floor : 0;
  const shift = pelvis.slice();
  if (drop !== 0) for (let i = 1; i < shift.length; i += 3) shift[i] -= drop;
  let path = shifted(body, shift);
  if (settings.inPlace) path = withoutTravel(path);
  const moves = [
    ...(plan.ground >= 0 ? [{ joint: plan.ground, values: Float32Array.from(path.ground) }] : []),
    { joint: plan.mover, values: Float32Array.from(path.moves) },
    ...pose.slides,
    ...drawnOut(pairing, [...legs, ...arms]),
    ...(props.length > 0 ? propMoves({ pairing, plan, props, root: path }, rotations, wayBetween(shifted(body, pelvis), path)) : []),
  ];
  return {
    clip: {
      name: take.name,
      frameTime: take.frameTime,
      frames: take.frames,
      rotations,
      moves,
    },
    floor: floor - drop,
  };
}
