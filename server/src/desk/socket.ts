import type { IncomingMessage, Server } from 'node:http';
import type { Duplex } from 'node:stream';
import { WebSocketServer, type RawData, type WebSocket } from 'ws';
import { asFault } from '@hollow-stride/core';
import { isLocal } from '../security';
import { LONGEST_MESSAGE, type Hub } from './hub';

/** Lines that are open at once, senders and pages together. */
const MOST_LINES = 24;
/** Bytes that may wait for a page before frames are left out for it. */
const BEHIND = 1024 * 1024;
/** A line that answers nothing for so long is ended, ms. */
const SILENT = 30_000;

/**
 * Lines of the desk: `/api/desk/stream` takes a sender's opening (text), then its frames (binary); `/api/desk/watch` tells pages how things
 * stand (text) and passes frames on (binary, after the session's length and name). From this machine only, and from no other page.
 */
export function openLines(server: Server, hub: Hub): () => void {
  const lines = new WebSocketServer({ noServer: true, maxPayload: LONGEST_MESSAGE, perMessageDeflate: false });
  const onUpgrade = (request: IncomingMessage, socket: Duplex, head: Buffer): void => {
    const way = (request.url ?? '').split('?')[0];
    const serve = way === '/api/desk/stream' ? takeSender : way === '/api/desk/watch' ? tellPage : undefined;
    if (!serve || !isLocal(request.headers) || lines.clients.size >= MOST_LINES) {
      socket.end(`HTTP/1.1 ${serve ? '403 Forbidden' : '404 Not Found'}\r\nConnection: close\r\n\r\n`);
      return;
    }
    lines.handleUpgrade(request, socket, head, (line) => serve(line, hub));
  };
  server.on('upgrade', onUpgrade);
  const alive = setInterval(() => {
    for (const line of lines.clients) {
      if (deaf.has(line)) line.terminate();
      deaf.add(line);
      line.ping();
    }
  }, SILENT);
  return () => {
    clearInterval(alive);
    server.off('upgrade', onUpgrade);
    for (const line of lines.clients) line.terminate();
    lines.close();
  };
}

/** Lines that have not answered the last ping. */
const deaf = new WeakSet<WebSocket>();

function bytesOf(data: RawData): Uint8Array {
  if (Array.isArray(data)) return Buffer.concat(data);
  return data instanceof ArrayBuffer ? new Uint8Array(data) : data;
}

function takeSender(line: WebSocket, hub: Hub): void {
  let open: ReturnType<Hub['open']> | undefined;
  line.on('pong', () => deaf.delete(line));
  line.on('error', () => line.terminate());
  line.on('message', (data, isBinary) => {
    deaf.delete(line);
    try {
      if (!isBinary) {
        if (open) return;
        open = hub.open(bytesOf(data).toString());
        line.send(JSON.stringify({ kind: 'open', session: open.opening.session }));
      } else if (!open) line.close(4000, 'a stream opens with its skeleton');
      else open.frame(bytesOf(data));
    } catch (error) {
      // A bad frame is refused with its reason; a stream that does not open is ended.
      line.send(JSON.stringify({ kind: 'refused', fault: asFault(error) }));
      if (!open) line.close(4001, 'the opening is refused');
    }
  });
  line.on('close', () => open?.close());
}

function tellPage(line: WebSocket, hub: Hub): void {
  line.on('pong', () => deaf.delete(line));
  line.on('error', () => line.terminate());
  // Pages only listen.
  line.on('message', () => line.close(4002, 'nothing is taken in here'));
  const end = hub.watch({
    state: (state) => line.send(JSON.stringify(state)),
    frame: (session, bytes) => {
      if (line.bufferedAmount > BEHIND) return;
      const name = Buffer.from(session);
      line.send(Buffer.concat([Buffer.from([name.length]), name, bytes]));
    },
  });
  line.on('close', end);
}
