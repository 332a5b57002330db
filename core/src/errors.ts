/** One kind of error for the whole core: a code, a sentence for people, and the place. */

/** Where a fault lies; every part is optional. Lines and frames count from 1, as people count. */
export interface Where {
  readonly file?: string;
  readonly line?: number;
  readonly joint?: string;
  readonly frame?: number;
}

/** A fault as a value: what is wrong, where, and what to do, in one sentence or two. */
export interface Fault {
  readonly code: FaultCode;
  readonly message: string;
  readonly where: Where;
}

export type FaultCode =
  | 'file/empty'
  | 'file/unknown-format'
  | 'file/too-large'
  | 'bvh/syntax'
  | 'bvh/truncated'
  | 'bvh/frame-count'
  | 'bvh/number'
  | 'bvh/channels'
  | 'glb/container'
  | 'glb/json'
  | 'glb/reference'
  | 'glb/extension'
  | 'glb/scale'
  | 'glb/animation'
  | 'skeleton/none'
  | 'skeleton/loop'
  | 'skeleton/limit'
  | 'skeleton/names'
  | 'label/missing'
  | 'label/doubt'
  | 'label/mistake'
  | 'label/uncertain'
  | 'label/four-legs'
  | 'label/unknown-joint'
  | 'label/scheme'
  | 'take/range'
  | 'take/slide'
  | 'recipe/schema'
  | 'recipe/version'
  | 'acclaim/syntax'
  | 'acclaim/parts'
  | 'gltf/parts'
  | 'archive'
  | 'mesh/none'
  | 'mesh/limit'
  | 'obj/syntax'
  | 'fit/landmarks'
  | 'stream/opening'
  | 'stream/frame'
  | 'stream/journal'
  | 'face/table'
  | 'face/none'
  | 'sound/wav'
  | 'clip/none'
  | 'clip/limit'
  | 'clip/not-finite'
  | 'match/rest'
  | 'match/joints'
  | 'match/scale'
  | 'solve/reach'
  | 'judge/caution'
  | 'judge/fault'
  | 'option';

/** Thrown where a fault ends the work; `fault` is what crosses borders. */
export class FaultError extends Error {
  /** @param options the cause, where something broke that was not foreseen: a defect, which tests look for */
  constructor(
    readonly fault: Fault,
    options?: { readonly cause?: unknown },
  ) {
    super(describeFault(fault), options);
    this.name = 'FaultError';
  }
}

/** Throws a fault. */
export function fail(code: FaultCode, message: string, where: Where = {}): never {
  throw new FaultError({ code, message, where });
}

/** "walk.bvh, line 12, joint knee, frame 3: what is wrong". */
export function describeFault(fault: Fault): string {
  const { file, line, joint, frame } = fault.where;
  const place = [
    file,
    line === undefined ? undefined : `line ${line}`,
    joint === undefined ? undefined : `joint ${joint}`,
    frame === undefined ? undefined : `frame ${frame}`,
  ].filter((part) => part !== undefined);
  return place.length === 0 ? fault.message : `${place.join(', ')}: ${fault.message}`;
}

/** Any thrown thing as a fault, so that the interface has one kind to show. */
export function asFault(error: unknown, file?: string): Fault {
  if (error instanceof FaultError) {
    const { fault } = error;
    return file !== undefined && fault.where.file === undefined ? { ...fault, where: { file, ...fault.where } } : fault;
  }
  const message = error instanceof Error ? error.message : String(error);
  return { code: 'file/unknown-format', message, where: file === undefined ? {} : { file } };
}

/** Any thrown thing as a fault that can be thrown on, with the file that it is about; what was not foreseen stays as its cause. */
export function asFaultError(error: unknown, file?: string): FaultError {
  const cause = error instanceof FaultError ? error.cause : error;
  return new FaultError(asFault(error, file), cause === undefined ? undefined : { cause });
}
