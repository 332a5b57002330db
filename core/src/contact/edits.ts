import type { PlantEdit } from '../recipe';
import type { Contacts, Plant } from './plants';

/**
 * Lays a person's edits over detected plants: what is removed is cut out of the plants of that heel or ball, what is added joins
 * them. Edits are in the take's own seconds, so that they mean the same moments at any frame rate.
 * @param frameAt the frame of the clip at a second of the take's own time; it may lie outside the clip
 */
export function editPlants(
  contacts: Contacts,
  edits: readonly PlantEdit[],
  frameAt: (seconds: number) => number,
  frames: number,
): Contacts {
  if (edits.length === 0) return contacts;
  let plants: Plant[] = [...contacts.plants];
  for (const { kind, side, part, from, to } of edits) {
    const first = Math.max(0, Math.round(frameAt(from)));
    const last = Math.min(frames - 1, Math.round(frameAt(to)));
    if (first > last) continue;
    const mine = (plant: Plant): boolean => plant.side === side && plant.part === part;
    if (kind === 'remove') {
      plants = plants.flatMap((plant) => {
        if (!mine(plant) || plant.last < first || plant.first > last) return [plant];
        return [
          { ...plant, last: first - 1 },
          { ...plant, first: last + 1 },
        ].filter((left) => left.first <= left.last);
      });
      continue;
    }
    let whole: Plant = { side, part, first, last };
    const others: Plant[] = [];
    for (const plant of plants) {
      if (mine(plant) && plant.first <= whole.last + 1 && plant.last >= whole.first - 1) {
        whole = { ...whole, first: Math.min(whole.first, plant.first), last: Math.max(whole.last, plant.last) };
      } else others.push(plant);
    }
    plants = [...others, whole];
  }
  return { ...contacts, plants: plants.sort((a, b) => a.first - b.first) };
}
