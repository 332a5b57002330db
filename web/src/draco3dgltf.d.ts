/** The decoder of Draco meshes alone; it has no types of its own. */
declare module 'draco3dgltf/draco_decoder_gltf_nodejs.js' {
  const createDecoderModule: (options: { wasmBinary: ArrayBuffer }) => Promise<unknown>;
  export default createDecoderModule;
}
