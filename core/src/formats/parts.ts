/** The bytes of a file that is made part by part, each let go as soon as it is copied. */
export function joinParts(parts: Iterable<Uint8Array<ArrayBuffer>>): Uint8Array<ArrayBuffer> {
  let whole = new Uint8Array(0);
  let length = 0;
  for (const part of parts) {
    // A file of one part is that part.
    if (length === 0) whole = part;
    else {
      if (length + part.length > whole.length) {
        const grown = new Uint8Array(Math.max(length + part.length, Math.ceil(whole.length * GROWTH)));
        grown.set(whole.subarray(0, length));
        whole = grown;
      }
      whole.set(part, length);
    }
    length += part.length;
  }
  return whole.subarray(0, length);
}

/** Room grows by this factor: memory that nothing was written to takes none. */
const GROWTH = 2;
