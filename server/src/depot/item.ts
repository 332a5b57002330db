import type { DepotFetch, DepotMotion } from '@hollow-stride/contract';

/** A motion of the depot with what makes its files. */
export interface DepotItem extends DepotMotion {
  file(options: Pick<DepotFetch, 'travel' | 'fps' | 'body'>): Promise<{ name: string; bytes: Uint8Array }>;
}
