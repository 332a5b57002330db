const POINTS = 2000;

/** A series as points of a line, x in frames; 0 at the foot, `top` and more at the top of a box of 100. */
export function curveOf(values: Float32Array | undefined, top: number): string {
  if (!values || values.length < 2) return '';
  const step = Math.max(1, Math.floor(values.length / POINTS));
  const points: string[] = [];
  for (let f = 0; f < values.length; f += step) {
    const y = 96 - Math.min(1, Math.max(0, values[f] / top)) * 92;
    points.push(`${f + 0.5},${y.toFixed(1)}`);
  }
  return points.join(' ');
}
