import type { CharacterJson, FactsJson, RackJson, TakeJson } from '@hollow-stride/contract';
import { factsOf } from '@hollow-stride/core';
import { makeFile, randomShape, walk } from '../../../../core/src/testing';

/** A rack with two takes and two characters, their facts really found out, for tests of what shows them. */
export function makeRack(): RackJson {
  const facts = (seed: number, moving: boolean): FactsJson => {
    const shape = randomShape(seed, { clavicles: true });
    return JSON.parse(
      JSON.stringify(factsOf(makeFile(shape, { metres: moving ? 0.01 : 1 }, moving ? walk(shape, { frames: 60 }) : undefined))),
    ) as FactsJson;
  };
  const id = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
  const common = (n: number, name: string, ending: string) => ({
    id: id(n),
    name,
    file: String(n).padStart(64, '0'),
    fileName: `${name.toLowerCase().replace(/ /g, '-')}.${ending}`,
    bytes: 123_456,
    isDemo: true,
    addedAt: '2026-11-01T00:00:00.000Z',
  });
  const takes: TakeJson[] = [
    { ...common(1, 'Quay walk', 'bvh'), clip: 0, facts: facts(1, true) },
    { ...common(2, 'Slow bow', 'bvh'), clip: 0, facts: facts(2, true) },
  ];
  const characters: CharacterJson[] = [
    { ...common(3, 'Ferryman', 'glb'), facts: { ...facts(3, false), format: 'glb', hasMesh: true } },
    { ...common(4, 'Heron', 'bvh'), facts: facts(4, false) },
  ];
  return { takes, characters, transfers: [], pairings: [] };
}
