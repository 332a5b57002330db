import type { Logger } from 'pino';
import type { UploadServices } from '../intake/one';
import { Hub } from './hub';
import { Recorder } from './recorder';
import { Ring } from './ring';

/** The capture desk of a server. */
export interface Desk {
  readonly hub: Hub;
  readonly ring: Ring;
  readonly recorder: Recorder;
}

/** @param folder where recordings lie until they are takes */
export function makeDesk(folder: string, services: UploadServices, log: Logger): Desk {
  const hub = new Hub();
  return { hub, ring: new Ring(hub, services.depot), recorder: new Recorder(folder, hub, services, log) };
}
