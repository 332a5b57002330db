/// <reference lib="webworker" />
import { LiveHost } from './live-host';
import type { LiveAsk, LiveTold } from './messages';

// A message to itself comes behind all that have come already.
const { port1, port2 } = new MessageChannel();
const due: (() => void)[] = [];
port1.onmessage = () => due.shift()?.();

const host = new LiveHost(
  (told: LiveTold) => postMessage(told, told.kind === 'frames' ? { transfer: [told.positions.buffer, told.rotations.buffer] } : {}),
  (then) => {
    due.push(then);
    port2.postMessage(0);
  },
);
addEventListener('message', ({ data }: MessageEvent<LiveAsk>) => host.take(data));
