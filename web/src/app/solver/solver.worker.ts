/// <reference lib="webworker" />
import {
  asFault,
  ClipReader,
  clipOf,
  DEFAULT_PAIRING,
  DEFAULT_SOLVE,
  FaultError,
  makePairing,
  measure,
  plainPass,
  prepareBody,
  readMotionFile,
  reportOf,
  solve,
  writeMotion,
  type Body,
  type Clip,
  type MotionFile,
  type Pairing,
  type SolveSettings,
} from '@hollow-stride/core';
import type { DisplayBody, FootCurve, PairRequest, Solved, SolverAnswer, SolverRequest } from './messages';

/** Files and bodies read so far, the latest few: a changed setting does not read them again. */
const files = new Map<string, Promise<MotionFile>>();
const bodies = new Map<string, Promise<Body>>();
const KEPT = 6;

let latest = 0;

addEventListener('message', ({ data }: MessageEvent<SolverRequest>) => {
  if (data.kind === 'solve') latest = data.job;
  void answer(data);
});

async function answer(request: SolverRequest): Promise<void> {
  const { job } = request;
  try {
    if (request.kind === 'solve') {
      const solved = await solvePair(request.pair, () => job !== latest);
      if (solved) send({ kind: 'solved', job, solved }, buffersOf(solved));
      else send({ kind: 'dropped', job });
    } else {
      const bytes = await deliver(request.pair, request.format, request.title);
      send({ kind: 'delivered', job, bytes }, [bytes.buffer]);
    }
  } catch (error) {
    send({ kind: 'failed', job, fault: asFault(error) });
  }
}

function send(message: SolverAnswer, transfer: Transferable[] = []): void {
  postMessage(message, { transfer });
}

/** Lets waiting messages in, so that a newer request can overtake. */
const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0));

function cached<T>(map: Map<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  const found = map.get(key);
  if (found) {
    map.delete(key);
    map.set(key, found);
    return found;
  }
  const made = make();
  made.catch(() => map.delete(key));
  map.set(key, made);
  for (const old of map.keys()) if (map.size > KEPT) map.delete(old);
  return made;
}

function fileOf(hash: string, name: string): Promise<MotionFile> {
  return cached(files, hash, async () => {
    const response = await fetch(`/api/files/${hash}`);
    if (!response.ok) {
      throw new FaultError({
        code: 'option',
        message: `the file cannot be fetched: the server answered ${response.status}`,
        where: { file: name },
      });
    }
    return readMotionFile(new Uint8Array(await response.arrayBuffer()), name);
  });
}

function bodyOf(hash: string, name: string, clip: number): Promise<Body> {
  return cached(bodies, `${hash} ${clip}`, async () => prepareBody(await fileOf(hash, name), clip));
}

async function pairOf({ take, character, choices }: PairRequest): Promise<{ pairing: Pairing; clip: Clip; settings: SolveSettings }> {
  const [performer, target] = await Promise.all([bodyOf(take.file, take.name, take.clip), bodyOf(character.file, character.name, 0)]);
  const { stride, lift, clavicles, head, floor, inPlace, fps } = choices;
  const pairing = makePairing(performer, target, { ...DEFAULT_PAIRING, stride, lift, clavicles, head });
  return { pairing, clip: clipOf(performer, take.clip), settings: { ...DEFAULT_SOLVE, floor, inPlace, fps: fps ?? undefined } };
}

async function solvePair(pair: PairRequest, isStale: () => boolean): Promise<Solved | undefined> {
  const { pairing, clip, settings } = await pairOf(pair);
  await breathe();
  if (isStale()) return undefined;
  const start = performance.now();
  const transfer = solve(pairing, clip, settings);
  const solvedAt = performance.now();
  plainPass(transfer);
  const time = { solve: solvedAt - start, plainPass: performance.now() - solvedAt };
  await breathe();
  if (isStale()) return undefined;
  const plain = solve(pairing, clip, { ...settings, plain: true });
  const figures = measure(transfer);
  await breathe();
  if (isStale()) return undefined;
  const plainFigures = measure(plain);
  const { performer, character, scale } = pairing;
  return {
    pair,
    performer: displayBody(performer, pair.take.file),
    character: displayBody(character, pair.character.file),
    take: copyClip(transfer.take),
    solved: copyClip(transfer.clip),
    plain: copyClip(plain.clip),
    contacts: transfer.contacts,
    floor: transfer.floor,
    lift: scale.lift,
    stride: scale.stride,
    curves: footCurves(performer, transfer.take, transfer.contacts.floor),
    report: reportOf(transfer, figures, plainFigures, time),
  };
}

async function deliver(pair: PairRequest, format: 'bvh' | 'glb', title: string): Promise<Uint8Array<ArrayBuffer>> {
  const { pairing, clip, settings } = await pairOf(pair);
  const transfer = solve(pairing, clip, settings);
  return writeMotion(pairing.character.file, pairing.character.basis, { ...transfer.clip, name: title }, format);
}

function displayBody(body: Body, file: string): DisplayBody {
  const { skeleton, roles, basis, restPose } = body;
  const labelled = new Uint8Array(skeleton.names.length);
  for (const joint of roles.values()) labelled[joint] = 1;
  const { layout } = body.file;
  let high = -Infinity;
  for (let j = 1; j < restPose.positions.length; j += 3) high = Math.max(high, restPose.positions[j]);
  return {
    skeleton,
    labelled,
    hips: roles.get('hips') ?? 0,
    height: high - (restPose.positions[(roles.get('left.foot') ?? 0) * 3 + 1] - 0.09),
    mesh:
      layout.format === 'glb' && body.file.skin
        ? { file, nodes: layout.nodes, scales: layout.ownScales.map((s) => s * basis.metres) }
        : undefined,
  };
}

function copyClip(clip: Clip): Clip {
  return { ...clip, rotations: clip.rotations.slice(), moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.slice() })) };
}

function footCurves(body: Body, clip: Clip, floor: number): FootCurve[] {
  const curves = body.feet.map(({ side }) => ({ side, heights: new Float32Array(clip.frames) }));
  const reader = new ClipReader(body.skeleton, clip);
  for (let f = 0; f < clip.frames; f++) {
    const { positions } = reader.at(f);
    body.feet.forEach(({ foot, ankleHeight }, i) => (curves[i].heights[f] = positions[foot * 3 + 1] - ankleHeight - floor));
  }
  return curves;
}

function buffersOf({ take, solved, plain, curves }: Solved): Transferable[] {
  return [
    ...[take, solved, plain].flatMap((clip) => [clip.rotations, ...clip.moves.map((m) => m.values)]),
    ...curves.map((c) => c.heights),
  ].map((a) => a.buffer as ArrayBuffer);
}
