import {
  DEFAULT_RECIPE,
  judgeTransfer,
  LiveTransfer,
  prepare,
  readMotionFile,
  sendable,
  solveReady,
  type TransferredFrame,
} from '@hollow-stride/core';
import type { DemoFile } from './index';
import { production } from './testing/production';

describe('takes of the demo, transferred as they come', () => {
  let files: readonly DemoFile[];
  beforeAll(async () => (files = await production()));
  const fileOf = (title: string) => {
    const { bytes, name } = files.find((file) => file.title === title)!;
    return readMotionFile(bytes, name);
  };

  it('are without a fault: on rungs, with a crate and a spike of the capture, on short legs and on long ones', async () => {
    for (const [title, onto] of [
      ['Crate lift', 'Heron'],
      ['Turn on the spot', 'Apprentice'],
      ["Bell-ringer's climb", 'Bellkeeper'],
      ['Side shuffle', 'Tide-King'],
    ]) {
      const [take, character] = await Promise.all([fileOf(title), fileOf(onto)]);
      const ready = prepare({ take, clip: 0, character, recipe: DEFAULT_RECIPE });
      const { metres } = ready.performer.basis;
      const sent = sendable(take, 0, { name: title, session: 'session-demo', metres });
      const live = new LiveTransfer(sent.opening, character, DEFAULT_RECIPE);
      const frames: TransferredFrame[] = [];
      for (let number = 0; number < sent.frames; number++) {
        live.push(sent.frame(number));
        // As they come where a solve takes as long as three frames.
        if (number % 3 === 0) frames.push(...live.solve());
      }
      frames.push(...live.solve(true));
      const afterwards = solveReady(ready);
      const joints = ready.character.skeleton.names.length;
      const rotations = new Float32Array(frames.length * joints * 4);
      frames.forEach((frame, f) => rotations.set(frame.rotations, f * joints * 4));
      const moves = frames[0].moves.map(({ joint }, i) => ({
        joint,
        values: Float32Array.from(frames.flatMap((frame) => [...frame.moves[i].place])),
      }));
      const verdict = judgeTransfer(ready, { ...afterwards, clip: { ...afterwards.clip, frames: frames.length, rotations, moves } });
      const faults = verdict.figures.filter(({ mark }) => mark === 'fault').map(({ id, value }) => `${id} ${value.toFixed(1)}`);
      expect(faults).withContext(`${title} on ${onto}`).toEqual([]);
    }
  }, 120_000);
});
