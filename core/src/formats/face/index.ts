import { asFaultError, fail } from '../../errors';
import { shortened, wellFormed } from '../../text';
import { isGlb } from '../glb/container';
import { readGlb } from '../glb/read';
import { readFaceCsv } from './csv';
import { readFaceJson } from './json';
import { MAX_TABLE_BYTES, type FaceTrack } from './track';

export { faceValueAt, MAX_CHANNELS, MAX_TABLE_BYTES, type FaceTrack } from './track';
export { faceTableSchema, FACE_FORMAT } from './json';
export { faceCsv, faceJson } from './write';

/**
 * Reads a face recording: a table (CSV, JSON), or the morph animation of a GLB file. Its content, not its name, says what it is.
 * @throws FaultError face/table, file/too-large, and what the GLB reader throws
 */
export async function readFace(bytes: Uint8Array, fileName: string): Promise<FaceTrack> {
  const name = shortened(wellFormed(fileName), 400);
  try {
    if (isGlb(bytes)) {
      const { faces = [] } = await readGlb(bytes, name, false);
      const face = faces.find((one) => one !== undefined);
      if (!face) fail('face/table', 'the file holds no morph animation');
      return { ...face, name };
    }
    if (bytes.length === 0) fail('file/empty', 'the file is empty');
    if (bytes.length > MAX_TABLE_BYTES) {
      fail('file/too-large', `the table has ${bytes.length} bytes; at most ${MAX_TABLE_BYTES} are read`);
    }
    const text = new TextDecoder().decode(bytes);
    return /^\uFEFF?\s*[[{]/.test(text) ? readFaceJson(text, name) : readFaceCsv(text, name);
  } catch (error) {
    throw asFaultError(error, name);
  }
}
