/** Globals that browsers and Node.js share beyond ECMAScript; the core uses nothing else of a platform. */
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(bytes: Uint8Array): string;
}
declare class TextEncoder {
  encode(text: string): Uint8Array<ArrayBuffer>;
}

/** Base64 to a string of bytes; throws on anything else. */
declare function atob(text: string): string;

/** The reverse. */
declare function btoa(text: string): string;
