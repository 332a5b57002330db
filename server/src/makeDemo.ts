import { makeDemo, type DemoFile } from '@hollow-stride/demo';

/** The demo production, made in its own module so that a server whose rack is filled never loads the generator. */
export const demoFiles = (): Promise<DemoFile[]> => makeDemo();
