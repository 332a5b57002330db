import type { SkinPoints } from '../formats';
import { caseOf } from '../job';
import { judge, type FigureId, type Verdict } from '../judge';
import type { Transfer } from '../solve';

/** The judge's verdict on a transfer. */
export function judged(transfer: Transfer, skin?: SkinPoints): Verdict {
  return judge(caseOf(transfer, skin));
}

/** One figure of a transfer. */
export function figureOf(transfer: Transfer, id: FigureId, verdict = judged(transfer)): number {
  return verdict.figures.find((figure) => figure.id === id)!.value;
}
