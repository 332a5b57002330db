/** Every second record of some, from the first on. @param stride numbers in a record */
export function everySecond<T extends Float64Array | Uint8Array | Int32Array>(values: T, stride: number): T {
  const count = (values.length / stride + 1) >> 1;
  const out = values.slice(0, count * stride) as T;
  for (let i = 1; i < count; i++) for (let c = 0; c < stride; c++) out[i * stride + c] = values[2 * i * stride + c];
  return out;
}

/** All records, from every second: half-way between two where one is left out. @param stride numbers in a record @param count of all records */
export function withBetween(values: Float64Array, stride: number, count: number): Float64Array {
  const out = new Float64Array(count * stride);
  const last = values.length / stride - 1;
  for (let f = 0, i = 0; f < count; f++) {
    const o = (f >> 1) * stride;
    const next = f % 2 === 1 && f >> 1 < last ? stride : 0;
    for (let c = 0; c < stride; c++, i++) out[i] = 0.5 * (values[o + c] + values[o + next + c]);
  }
  return out;
}
