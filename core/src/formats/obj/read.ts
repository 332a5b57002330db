import { asFaultError, fail } from '../../errors';
import { shortened, wellFormed } from '../../text';
import { checkRoom, readGlbSurface } from '../glb/surface';
import { MAX_VALUE } from '../limits';
import type { Surface } from '../surface';
import type { ObjPiece } from './piece';
import { writeObjGlb } from './toGlb';

const MAX_PIECES = 2000;
const MAX_CORNERS = 10_000;

/** True for text that begins as the points of an OBJ file do. */
export function looksLikeObj(head: string): boolean {
  return /^(?:\s*(?:#.*|(?:mtllib|o|g|s|usemtl)\s.*)?\r?\n)*\s*v\s+[-+\d.]/.test(head);
}

/**
 * Reads a Wavefront OBJ file: points, texture coordinates, normals, faces of any number of corners, groups and materials by name.
 * Lines, curves and the materials' own file are left out.
 * @returns its surface, with the same as a GLB file
 * @throws FaultError obj/syntax with the line; mesh/none; mesh/limit
 */
export async function readObj(bytes: Uint8Array, name: string): Promise<Surface> {
  try {
    const pieces = piecesOf(new TextDecoder().decode(bytes));
    if (pieces.length === 0) fail('mesh/none', 'the file has no faces; export the body as a mesh');
    return { ...(await readGlbSurface(await writeObjGlb(pieces), name)), inMetres: false };
  } catch (error) {
    throw asFaultError(error, name);
  }
}

function piecesOf(text: string): ObjPiece[] {
  const points: number[] = [];
  const coordinates: number[] = [];
  const normals: number[] = [];
  const pieces = new Map<string, ObjPiece & { readonly corners: Map<string, number> }>();
  let [group, material] = ['body', ''];
  let triangles = 0;
  let corners = 0;
  let line = 0;

  const numbers = (words: readonly string[], count: number, into: number[]): void => {
    for (let i = 1; i <= count; i++) {
      const value = Number(words[i] ?? NaN);
      if (!(Math.abs(value) < MAX_VALUE)) fail('obj/syntax', `"${shortened(words.join(' '), 60)}" needs ${count} numbers`, { line });
      into.push(value);
    }
  };
  /** Place in a list of what a corner names: from 1, or from the end with a minus. */
  const place = (word: string | undefined, length: number, what: string): number => {
    if (word === undefined || word === '') return -1;
    const given = Number(word);
    const index = given < 0 ? length + given : given - 1;
    if (!Number.isInteger(given) || !(index >= 0 && index < length)) {
      fail('obj/syntax', `the face names ${what} ${shortened(word, 20)}, and there are ${length} before it`, { line });
    }
    return index;
  };
  const pieceNow = (): ObjPiece & { readonly corners: Map<string, number> } => {
    const key = `${group}\n${material}`;
    let piece = pieces.get(key);
    if (!piece) {
      if (pieces.size >= MAX_PIECES) fail('mesh/limit', `the file has more than ${MAX_PIECES} groups; join some of them`, { line });
      piece = { name: group, material, positions: [], normals: [], coordinates: [], triangles: [], corners: new Map() };
      pieces.set(key, piece);
    }
    return piece;
  };
  const face = (words: readonly string[]): void => {
    if (words.length < 4) fail('obj/syntax', 'a face needs at least three corners', { line });
    if (words.length > MAX_CORNERS) fail('obj/syntax', `a face has more than ${MAX_CORNERS} corners`, { line });
    const piece = pieceNow();
    const own = words.slice(1).map((word) => {
      const found = piece.corners.get(word);
      // Numbers from the end mean another point on each line.
      if (found !== undefined && !word.includes('-')) return found;
      const [v, t, n] = word.split('/');
      const at = place(v, points.length / 3, 'point');
      if (at < 0) fail('obj/syntax', `"${shortened(word, 20)}" names no point`, { line });
      const [coordinate, normal] = [place(t, coordinates.length / 2, 'texture point'), place(n, normals.length / 3, 'normal')];
      const index = piece.positions.length / 3;
      piece.positions.push(points[at * 3], points[at * 3 + 1], points[at * 3 + 2]);
      if (coordinate >= 0) piece.coordinates.push(coordinates[coordinate * 2], 1 - coordinates[coordinate * 2 + 1]);
      if (normal >= 0) piece.normals.push(normals[normal * 3], normals[normal * 3 + 1], normals[normal * 3 + 2]);
      piece.corners.set(word, index);
      return index;
    });
    for (let k = 2; k < own.length; k++) piece.triangles.push(own[0], own[k - 1], own[k]);
    corners += own.length;
    triangles += own.length - 2;
    checkRoom(corners / 8, triangles);
  };

  for (const row of text.split(/\r\n?|\n/)) {
    line++;
    const words = row.trim().split(/\s+/);
    const rest = (): string => shortened(wellFormed(words.slice(1).join(' ')).trim(), 80);
    if (words[0] === 'v') {
      numbers(words, 3, points);
      checkRoom(points.length / 3, 0);
    } else if (words[0] === 'vt') numbers(words, 2, coordinates);
    else if (words[0] === 'vn') numbers(words, 3, normals);
    else if (words[0] === 'f') face(words);
    else if (words[0] === 'o' || words[0] === 'g') group = rest() || 'body';
    else if (words[0] === 'usemtl') material = rest();
  }
  return [...pieces.values()].filter((piece) => piece.triangles.length > 0);
}
