import { EventEmitter } from 'node:events';
import type { Request } from 'express';
import { CLIENT_HEADER, type RackEvent } from '@hollow-stride/contract';

/** Announces changes on the rack to every open page. */
export class Changes {
  private readonly events = new EventEmitter().setMaxListeners(200);

  tell(event: RackEvent): void {
    this.events.emit('event', event);
  }

  /** Hears of every change until it is ended. */
  watch(hear: (event: RackEvent) => void): () => void {
    this.events.on('event', hear);
    return () => this.events.off('event', hear);
  }
}

/** The page that asks, as it calls itself: it knows of its own changes already. */
export function clientOf(request: Request): string | null {
  const name = request.get(CLIENT_HEADER);
  return name !== undefined && /^[\w-]{1,60}$/.test(name) ? name : null;
}
