/** The program that made a file, as its records name it. */
export const PROGRAM = { name: 'Hollow Stride', version: '0.1.0' } as const;
