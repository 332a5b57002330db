import type { Request, Response } from 'express';

/** A line that is silent for long is taken for dead by what lies between: something is said at least every so often, ms. */
const BEAT = 15_000;

/** Answers with server-sent events until the other side leaves. @param watch begins to tell, and returns what ends it */
export function sendEvents(request: Request, response: Response, watch: (tell: (event: unknown) => void) => () => void): void {
  response.set({ 'Cache-Control': 'no-store, no-transform', 'Content-Type': 'text/event-stream', 'X-Accel-Buffering': 'no' });
  response.write('retry: 2000\n\n');
  response.flushHeaders();
  const end = watch((event) => response.write(`data: ${JSON.stringify(event)}\n\n`));
  const beat = setInterval(() => response.write(': still here\n\n'), BEAT);
  request.on('close', () => {
    clearInterval(beat);
    end();
    response.end();
  });
}
