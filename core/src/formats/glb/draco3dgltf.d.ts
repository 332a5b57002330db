/** The decoder of Draco meshes has no types of its own. */
declare module 'draco3dgltf' {
  const draco: { createDecoderModule(options?: { wasmBinary?: ArrayBuffer }): Promise<unknown> };
  export default draco;
}
/** The decoder alone, as browsers load it. */
declare module 'draco3dgltf/draco_decoder_gltf_nodejs.js' {
  const createDecoderModule: (options: { wasmBinary: ArrayBuffer }) => Promise<unknown>;
  export default createDecoderModule;
}
