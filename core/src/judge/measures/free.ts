import type { Direction } from '../look/directions';
import type { Scene } from '../scene';

/** 1 for frames in which a direction says nothing: known faults of the take, and for an arm the time in which its hand is led. */
export function freeOf({ left, led }: Scene, { name, part }: Direction): Uint8Array {
  return (part === 'arms' || part === 'hands' ? led.get(name.split(' ')[0]) : undefined) ?? left;
}
