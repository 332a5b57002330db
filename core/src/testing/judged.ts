import { judge, type FigureId, type Verdict } from '../judge';
import type { SkinPoints } from '../formats';
import type { Transfer } from '../solve';

/** What the judge says of a transfer. */
export function judged({ pairing, take, clip, floor, contacts, settings }: Transfer, skin?: SkinPoints): Verdict {
  const { performer, character, scale } = pairing;
  return judge({
    performer,
    take,
    character,
    result: clip,
    skin,
    scale,
    raised: floor - contacts.floor * scale.lift,
    inPlace: settings.inPlace,
  });
}

/** One figure of a transfer. */
export function figureOf(transfer: Transfer, id: FigureId, verdict = judged(transfer)): number {
  return verdict.figures.find((figure) => figure.id === id)!.value;
}
