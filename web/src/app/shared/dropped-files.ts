/** Most files that a drop may bring: what is beyond is for an archive. */
const MOST = 500;

/** The files of a drop, those in dropped folders too, each knowing its path from the folder that was dropped. */
export async function droppedFiles(transfer: DataTransfer): Promise<File[]> {
  // Entries must be asked for before the first await: the transfer is empty afterwards.
  const entries = [...transfer.items].map((item) => (item.kind === 'file' ? item.webkitGetAsEntry() : null));
  const plain = [...transfer.files];
  if (!entries.some((entry) => entry?.isDirectory)) return plain;
  const files: File[] = [];
  for (const entry of entries) if (entry) await collect(entry, files);
  return files;
}

async function collect(entry: FileSystemEntry, into: File[]): Promise<void> {
  if (into.length >= MOST || entry.name.startsWith('.')) return;
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
    Object.defineProperty(file, 'webkitRelativePath', { value: entry.fullPath.replace(/^\//, '') });
    into.push(file);
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  // A folder is read in parts; an empty part is the end.
  for (;;) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (part.length === 0) return;
    for (const inner of part) await collect(inner, into);
  }
}
