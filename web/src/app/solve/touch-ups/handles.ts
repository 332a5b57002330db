import type { Side, TouchUpKind } from '@hollow-stride/core';

/** A way in which a handle is dragged on the screen, and what it changes. */
export interface Way {
  readonly kind: TouchUpKind;
  /** Away from the middle of the body, towards its left, up, or down is more. */
  readonly more: 'out' | 'left' | 'up' | 'down';
}

/** A place on the body that is dragged: along the screen's width and height it may change one thing each. */
export interface Handle {
  readonly name: string;
  readonly role: string;
  readonly side: Side | 'both';
  readonly across: Way | undefined;
  readonly along: Way | undefined;
}

const sided = (part: string, role: string, across: Way | undefined, along: Way | undefined): Handle[] =>
  (['left', 'right'] as const).map((side) => ({ name: `${side} ${part}`, role: `${side}.${role}`, side, across, along }));

export const HANDLES: readonly Handle[] = [
  {
    name: 'head',
    role: 'head',
    side: 'both',
    across: { kind: 'headTurn', more: 'left' },
    along: { kind: 'head', more: 'down' },
  },
  ...sided('shoulder', 'upperArm', undefined, { kind: 'shoulders', more: 'up' }),
  ...sided('elbow', 'lowerArm', { kind: 'elbows', more: 'out' }, undefined),
  ...sided('hand', 'hand', { kind: 'arms', more: 'out' }, { kind: 'armsAhead', more: 'up' }),
  { name: 'hips', role: 'hips', side: 'both', across: undefined, along: { kind: 'hips', more: 'up' } },
  ...sided('knee', 'lowerLeg', { kind: 'knees', more: 'out' }, undefined),
  ...sided('foot', 'foot', { kind: 'feet', more: 'out' }, undefined),
];

/** Degrees, or centimetres, that a pixel is worth. */
const DEGREES = 0.3;
const CENTIMETRES = 0.12;

/**
 * How much a pixel to the right, or down, is worth.
 * @param isRight the handle stands to the right of the hips on the screen
 * @param leftIsRight the body's left is at the right of the screen, as it is seen from ahead
 */
export function worthOf({ kind, more }: Way, isRight: boolean, leftIsRight: boolean): number {
  const size = kind === 'hips' ? CENTIMETRES : DEGREES;
  switch (more) {
    case 'out':
      return isRight ? size : -size;
    case 'left':
      return leftIsRight ? size : -size;
    case 'up':
      return -size;
    case 'down':
      return size;
  }
}
