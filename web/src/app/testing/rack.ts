import type { HttpTestingController } from '@angular/common/http/testing';
import type { CharacterJson, FactsJson, RackJson, SkeletonJson, TakeJson, TakesPage } from '@hollow-stride/contract';
import { DEFAULT_SKELETON, DEFAULT_TAKE, factsOf } from '@hollow-stride/core';
import type { Rack } from '../project/project.store';
import { makeFile, randomShape, walk } from '../../../../core/src/testing';

/** An id for tests. */
export const idOf = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;

/** A rack with two takes and two characters, their facts really found out, for tests of what shows them. */
export function makeRack(): Rack {
  const facts = (seed: number, moving: boolean): FactsJson => {
    const shape = randomShape(seed, { clavicles: true });
    return JSON.parse(
      JSON.stringify(factsOf(makeFile(shape, { metres: moving ? 0.01 : 1 }, moving ? walk(shape, { frames: 60 }) : undefined))),
    ) as FactsJson;
  };
  const common = (n: number, name: string, ending: string) => ({
    id: idOf(n),
    version: 1,
    name,
    file: String(n).padStart(64, '0'),
    fileName: `${name.toLowerCase().replace(/ /g, '-')}.${ending}`,
    bytes: 123_456,
    skeleton: idOf(n + 100),
    isDemo: true,
    addedAt: '2026-11-01T00:00:00.000Z',
  });
  const setting = { tags: [], note: '', choices: DEFAULT_TAKE, clip: 0 };
  const takes: TakeJson[] = [
    { ...common(1, 'Quay walk', 'bvh'), ...setting, facts: facts(1, true) },
    { ...common(2, 'Slow bow', 'bvh'), ...setting, facts: facts(2, true) },
  ];
  const characters: CharacterJson[] = [
    { ...common(3, 'Ferryman', 'glb'), facts: { ...facts(3, false), format: 'glb', hasMesh: true } },
    { ...common(4, 'Heron', 'bvh'), facts: facts(4, false) },
  ];
  const skeletons: SkeletonJson[] = [...takes, ...characters].map(({ skeleton, name }) => ({
    id: skeleton,
    version: 1,
    name: `${name} skeleton`,
    choices: DEFAULT_SKELETON,
    rests: [],
    reference: null,
  }));
  return {
    takes,
    characters,
    transfers: [],
    pairings: [],
    skeletons,
    schemes: [],
    versions: [],
    sets: [],
    presets: [],
    poses: [],
    jointSchemes: [],
    recordings: [],
    meshes: [],
    nameTables: [],
    reels: [],
    limits: {},
  };
}

/** The page of a list that holds these takes, all of them. */
export function pageOf(takes: readonly TakeJson[], all = takes.length): TakesPage {
  const skeletons = [...new Set(takes.map(({ skeleton }) => skeleton))];
  return {
    takes: skeletons.flatMap((skeleton) => takes.filter((take) => take.skeleton === skeleton)),
    groups: skeletons.map((skeleton) => ({ skeleton, count: takes.filter((take) => take.skeleton === skeleton).length })),
    total: takes.length,
    all,
    tags: [...new Set(takes.flatMap(({ tags }) => tags))].sort(),
  };
}

/** The rack but for its takes, as the server sends it. */
export function rackJson({ limits, ...rest }: Omit<Rack, 'takes'>): RackJson {
  return { ...rest, limits: { version: 0, limits } };
}

/** Answers a reading of the rack as the server does: the rack, the first page of its takes, and takes asked for one by one. */
export function flushRack(http: HttpTestingController, { takes, ...rest }: Rack): void {
  http.expectOne('/api/rack').flush(rackJson(rest));
  http.expectOne(({ url }) => url === '/api/takes').flush(pageOf(takes));
  for (const request of http.match(({ url, method }) => method === 'GET' && /^\/api\/takes\/[^/]+$/.test(url))) {
    const found = takes.find(({ id }) => request.request.url.endsWith(id));
    if (found) request.flush(found);
    else request.flush({ error: { code: 'option', message: 'not on the rack', where: {} } }, { status: 404, statusText: 'Not Found' });
  }
}
