import type { MeshJson } from '@hollow-stride/contract';
import { Blobs } from '../blobs';
import { refuse } from '../errors';
import { takeInMesh, type UploadServices } from './one';

/** Puts the mesh of a character on the rack, to be given another skeleton or other weights. @throws Refusal 404, 422 */
export async function meshOfCharacter(services: UploadServices, id: string): Promise<MeshJson> {
  const { blobs, library } = services;
  const character = await library.character(id);
  const received = await Blobs.measure(blobs.path(character.file));
  const { meshes, error } = await takeInMesh(received, character.fileName, services, { title: character.name });
  if (error) refuse(422, error.message, 'mesh/none', { file: character.fileName });
  return meshes[0];
}
