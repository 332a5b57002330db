/**
 * The pairs of rows and columns whose costs come to the least in all (the Hungarian method with potentials: Kuhn 1955, Munkres
 * 1957; shortest augmenting paths after Jonker and Volgenant 1987). Time grows as rows² × columns.
 * @param costs rows × columns, no more rows than columns; finite
 * @returns the column of each row
 */
export function leastCost(costs: ArrayLike<number>, rows: number, columns: number): Int32Array {
  const byRow = new Float64Array(rows + 1);
  const byColumn = new Float64Array(columns + 1);
  // Row of each column, both counted from 1; 0 is none.
  const rowOf = new Int32Array(columns + 1);
  const before = new Int32Array(columns + 1);
  const least = new Float64Array(columns + 1);
  const seen = new Uint8Array(columns + 1);
  for (let row = 1; row <= rows; row++) {
    rowOf[0] = row;
    let column = 0;
    least.fill(Infinity);
    seen.fill(0);
    do {
      seen[column] = 1;
      const from = rowOf[column];
      let step = Infinity;
      let next = 0;
      for (let j = 1; j <= columns; j++) {
        if (seen[j]) continue;
        const cost = costs[(from - 1) * columns + j - 1] - byRow[from] - byColumn[j];
        if (cost < least[j]) {
          least[j] = cost;
          before[j] = column;
        }
        if (least[j] < step) {
          step = least[j];
          next = j;
        }
      }
      for (let j = 0; j <= columns; j++) {
        if (seen[j]) {
          byRow[rowOf[j]] += step;
          byColumn[j] -= step;
        } else least[j] -= step;
      }
      column = next;
    } while (rowOf[column] !== 0);
    do {
      const from = before[column];
      rowOf[column] = rowOf[from];
      column = from;
    } while (column !== 0);
  }
  const out = new Int32Array(rows).fill(-1);
  for (let j = 1; j <= columns; j++) if (rowOf[j] > 0) out[rowOf[j] - 1] = j - 1;
  return out;
}
