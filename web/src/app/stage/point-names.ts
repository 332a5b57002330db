import type { ProbePoint } from '@hollow-stride/core';

const NAMES: Readonly<Record<string, string>> = { tip: 'toe tip' };

/** A touch point as people call it: "left toe tip". */
export function pointName(name: ProbePoint): string {
  const [side, part] = name.split('.') as [string, string | undefined];
  return part === undefined ? side : `${side} ${NAMES[part] ?? part}`;
}
