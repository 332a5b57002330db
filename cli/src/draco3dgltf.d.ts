/** The decoder of Draco meshes has no types of its own. */
declare module 'draco3dgltf' {
  const draco: { createDecoderModule(options?: { wasmBinary?: ArrayBuffer }): Promise<unknown> };
  export default draco;
}
