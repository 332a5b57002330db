declare module 'gltf-validator' {
  export function validateBytes(
    bytes: Uint8Array,
    options?: { ignoredIssues?: readonly string[]; maxIssues?: number },
  ): Promise<{
    issues: { numErrors: number; numWarnings: number; messages: readonly { code: string; message: string; severity: number }[] };
  }>;
}
