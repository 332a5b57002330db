import { useDraco } from './draco';

/** How programs on Node.js load the decoder of Draco meshes; it is loaded when the first packed mesh is read. */
useDraco(async () => {
  const { default: draco } = await import('draco3dgltf');
  return draco.createDecoderModule();
});
