import { crc32 } from 'node:zlib';
import { fail, parseOpening, readFrame, type Opening, type StreamFrame } from '@hollow-stride/core';

/** Bytes before each record of a journal: its length, and its checksum. */
const HEAD = 8;
/** No record is longer. */
const LONGEST = 4 * 1024 * 1024;

/** A record of a journal: so many bytes, their checksum, the bytes. Written one after the other, a kill loses at most the last. */
export function journalRecord(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(HEAD + bytes.length);
  const view = new DataView(out.buffer);
  view.setUint32(0, bytes.length, true);
  view.setUint32(4, crc32(bytes), true);
  out.set(bytes, HEAD);
  return out;
}

/** What a journal holds: how the stream opened, all whole frames, and what was said with the recording. */
export interface Journal {
  readonly about: unknown;
  readonly opening: Opening;
  readonly frames: readonly StreamFrame[];
  /** Bytes at its end that are no whole record: it was cut off there. */
  readonly cut: number;
}

/**
 * Reads a journal as far as it is whole: a record about the recording (JSON), the opening, then frames.
 * @throws FaultError stream/journal where not even its beginning is whole
 */
export function readJournal(bytes: Uint8Array): Journal {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  let at = 0;
  const next = (): Uint8Array | undefined => {
    if (at + HEAD > bytes.length) return undefined;
    const length = view.getUint32(at, true);
    if (length > LONGEST || at + HEAD + length > bytes.length) return undefined;
    const record = bytes.subarray(at + HEAD, at + HEAD + length);
    if (crc32(record) !== view.getUint32(at + 4, true)) return undefined;
    at += HEAD + length;
    return record;
  };
  const [about, opened] = [next(), next()];
  if (!about || !opened) fail('stream/journal', 'the recording was cut off before its first frame');
  const opening = parseOpening(new TextDecoder().decode(opened));
  const frames: StreamFrame[] = [];
  for (let record = next(); record; record = next()) frames.push(readFrame(record, opening.joints.length));
  return { about: JSON.parse(new TextDecoder().decode(about)) as unknown, opening, frames, cut: bytes.length - at };
}
