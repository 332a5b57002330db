/** Hands bytes to the browser as a download. */
export function saveBytes(bytes: Uint8Array<ArrayBuffer>, fileName: string): void {
  const address = URL.createObjectURL(new Blob([bytes], { type: 'application/octet-stream' }));
  const link = document.createElement('a');
  link.href = address;
  link.download = fileName;
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
}

/** Hands a text to the browser as a download. */
export function saveText(text: string, fileName: string): void {
  saveBytes(new TextEncoder().encode(text), fileName);
}
