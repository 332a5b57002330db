import { makeDemo, type DemoFile } from '../index';

let made: Promise<readonly DemoFile[]> | undefined;

/** The demo production, made once for all specs: it is the same each time, and they only read it. */
export const production = (): Promise<readonly DemoFile[]> => (made ??= makeDemo());
