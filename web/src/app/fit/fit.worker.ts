/// <reference lib="webworker" />
import {
  asFault,
  bindMesh,
  judgeTransfer,
  layMesh,
  Memory,
  openMesh,
  prepare,
  solveReady,
  type BoundMesh,
  type LaidMesh,
  type OpenMesh,
} from '@hollow-stride/core';
import { contentOf, decidedJob } from '../solver/jobs';
import type { TakeSource } from '../solver/messages';
import { serve, type Outcome, type Tell } from '../solver/worker-host';
import type { FitAsk, FitGives, FitSource, PictureView, Tried } from './messages';
import { coloursOf, drawBody } from './picture';
import { boundViewOf, laidViewOf } from './views';

/** Takes that are tried beside each other play at one rate. */
const TRIED_FPS = 60;

/** The mesh that is worked on, and what was made of it. */
let open: { readonly file: string; readonly mesh: Promise<OpenMesh>; readonly memory: Memory } | undefined;
let bound: { readonly key: string; readonly mesh: BoundMesh } | undefined;

serve<FitAsk, FitGives>(async (ask, _wanted, tell) => {
  switch (ask.kind) {
    case 'lay':
      return { gives: { kind: 'laid', laid: laidViewOf(await laidOf(ask.source)) } };
    case 'picture':
      return picture(ask.source, ask.view);
    case 'bind':
      return bind(ask.source, ask.name, tell);
    case 'try':
      return tryOn(ask.source, ask.name, ask.takes, tell);
  }
});

async function laidOf({ mesh: { file, name }, choices }: FitSource): Promise<LaidMesh> {
  if (open?.file !== file) {
    bound = undefined;
    const mesh = contentOf(file, name).then((bytes) => openMesh(bytes, name));
    open = { file, mesh, memory: new Memory() };
    mesh.catch(() => (open = undefined));
  }
  const { mesh, memory } = open;
  return layMesh(await mesh, choices, memory);
}

async function picture(source: FitSource, view: PictureView): Promise<Outcome<FitGives>> {
  const { body } = await laidOf(source);
  const colours = view.weights !== null && bound ? coloursOf(bound.mesh.weights, bound.mesh.names, view.weights) : undefined;
  const made = drawBody(body, view, colours);
  return { gives: { kind: 'picture', picture: made }, buffers: [made.pixels.buffer, made.depth.buffer] };
}

async function boundOf(source: FitSource, name: string, tell: Tell): Promise<BoundMesh> {
  const key = JSON.stringify([source, name]);
  if (bound?.key === key) return bound.mesh;
  const laid = await laidOf(source);
  const mesh = await bindMesh(laid, source.choices, name, open?.memory, (share) => tell(share, 'binding the skin'));
  bound = { key, mesh };
  return mesh;
}

async function bind(source: FitSource, name: string, tell: Tell): Promise<Outcome<FitGives>> {
  tell(0, 'reading the mesh');
  const view = boundViewOf(source, await boundOf(source, name, tell));
  return { gives: { kind: 'bound', bound: view }, buffers: [view.glb.buffer] };
}

/** Solves takes on the fitted character as it would be on the rack. */
async function tryOn(source: FitSource, name: string, takes: readonly TakeSource[], tell: Tell): Promise<Outcome<FitGives>> {
  const { file } = await boundOf(source, name, tell);
  const tried: Tried[] = [];
  for (const [i, take] of takes.entries()) {
    tell(i / takes.length, `solving ${take.name}`);
    try {
      const ready = prepare(await decidedJob(take, file, TRIED_FPS));
      const transfer = solveReady(ready);
      const { figures } = judgeTransfer(ready, transfer);
      const marked = (mark: string): number => figures.filter((figure) => figure.mark === mark).length;
      tried.push({ clip: transfer.clip, faults: marked('fault'), cautions: marked('caution') });
    } catch (error) {
      tried.push({ fault: asFault(error, take.name) });
    }
  }
  return { gives: { kind: 'tried', tried } };
}
