import { randomUUID } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import { WebSocket } from 'ws';
import { fail, prepareAny, sendable, writeFrame, type Sendable } from '@hollow-stride/core';
import { stem } from '../inputs';
import type { Output } from '../output';
import type { Workspace } from '../workspace';

export interface SendOptions {
  readonly server: string;
  readonly clip?: number;
  readonly fps?: number;
  readonly times?: string;
  readonly name?: string;
  readonly session?: string;
}

/** A lost line is taken up again after so long, and given up after so many times, ms. */
const AGAIN = 500;
const TRIES = 20;
/** Frames that are sent again after a lost line: the desk drops those that it has. */
const BACK = 30;

/** Plays a take into the capture desk, as a capture device would. */
export async function sendCommand(path: string, options: SendOptions, output: Output, workspace: Workspace): Promise<void> {
  const file = await workspace.load(path, 'the take');
  const clipIndex = (options.clip ?? 1) - 1;
  if (!(file.clips[clipIndex]?.frames > 1)) fail('clip/none', `there is no motion ${clipIndex + 1} in it`, { file: file.name });
  const times = Number(options.times ?? 1);
  if (!Number.isInteger(times) || times < 1) fail('option', `--times is a whole number from 1, not "${options.times ?? ''}"`);
  const { basis } = prepareAny(file, clipIndex);
  const take = sendable(file, clipIndex, {
    name: options.name ?? stem(path).slice(0, 80),
    session: options.session ?? randomUUID(),
    metres: basis.metres,
    up: basis.up === '+Z' ? '+Z' : '+Y',
    ...(options.fps !== undefined && { rate: options.fps }),
  });
  const address = `${options.server.replace(/^http/, 'ws')}/api/desk/stream`;
  const sent = await sendAll(take, take.frames * times, address, output);
  output.out(`${sent} frames of ${take.opening.name} sent at ${take.opening.rate.toFixed(1)} a second`);
}

/** Sends frames as their time comes; a line that is lost is taken up again. @throws FaultError option */
async function sendAll(take: Sendable, frames: number, address: string, output: Output): Promise<number> {
  const start = Date.now();
  let next = 0;
  for (let tries = 0; next < frames; tries++) {
    const line = await open(address, take).catch((error: unknown) => (error instanceof Error ? error : new Error(String(error))));
    if (line instanceof Error) {
      if (tries >= TRIES || next === 0) fail('option', `${address} does not take the stream: ${line.message}`);
      await wait(AGAIN);
      continue;
    }
    if (next > 0) output.err('hollow-stride: the line is taken up again');
    next = Math.max(0, next - BACK);
    while (next < frames && line.readyState === WebSocket.OPEN) {
      const due = Math.min(frames, Math.floor(((Date.now() - start) / 1000) * take.opening.rate) + 1);
      for (; next < due; next++) line.send(writeFrame(take.frame(next)));
      await wait(4);
    }
    if (next >= frames) await closed(line);
  }
  return frames;
}

/** A line that the desk has taken. */
function open(address: string, take: Sendable): Promise<WebSocket> {
  return new Promise((resolve, reject) => {
    const line = new WebSocket(address);
    line.on('error', reject);
    line.on('open', () => line.send(JSON.stringify(take.opening)));
    line.on('message', (data: Buffer) => {
      const told = JSON.parse(data.toString()) as { kind: string; fault?: { message: string } };
      if (told.kind === 'open') resolve(line);
      else {
        reject(new Error(told.fault?.message ?? 'it was refused'));
        line.terminate();
      }
    });
    line.on('close', () => reject(new Error('the line was closed')));
  });
}

function closed(line: WebSocket): Promise<void> {
  return new Promise((resolve) => {
    line.on('close', () => resolve());
    line.close();
  });
}
