import { droppedFiles } from './dropped-files';

/** A folder of a drop, as the browser gives it: its entries in parts of two. */
function entry(path: string, content: Record<string, unknown> | string): FileSystemEntry {
  const name = path.split('/').at(-1)!;
  if (typeof content === 'string') {
    const file = new File([content], name);
    return {
      name,
      fullPath: path,
      isFile: true,
      isDirectory: false,
      file: (give: (file: File) => void) => give(file),
    } as unknown as FileSystemEntry;
  }
  const inner = Object.entries(content).map(([key, value]) => entry(`${path}/${key}`, value as string));
  return {
    name,
    fullPath: path,
    isFile: false,
    isDirectory: true,
    createReader: () => ({ readEntries: (give: (part: FileSystemEntry[]) => void) => give(inner.splice(0, 2)) }),
  } as unknown as FileSystemEntry;
}

const dropOf = (...entries: FileSystemEntry[]): DataTransfer =>
  ({ files: [], items: entries.map((of) => ({ kind: 'file', webkitGetAsEntry: () => of })) }) as unknown as DataTransfer;

describe('dropped files', () => {
  it('are those that were dropped where no folder is among them', async () => {
    const data = new DataTransfer();
    data.items.add(new File(['x'], 'a.bvh'));
    expect((await droppedFiles(data)).map(({ name }) => name)).toEqual(['a.bvh']);
  });

  it('are those of folders in folders, each with its way there; hidden ones are passed over', async () => {
    const folder = entry('/suit', { 'a.bvh': 'x', 'b.bvh': 'y', '.hidden': 'z', parts: { 'c.bin': 'w' } });
    const files = await droppedFiles(dropOf(folder, entry('/lone.glb', 'v')));
    expect(files.map((file) => file.webkitRelativePath)).toEqual(['suit/a.bvh', 'suit/b.bvh', 'suit/parts/c.bin', 'lone.glb']);
    expect(await files[2].text()).toBe('w');
  });

  it('are no more than an upload may hold', async () => {
    const many = Object.fromEntries(Array.from({ length: 620 }, (_, i) => [`${i}.bvh`, 'x']));
    expect((await droppedFiles(dropOf(entry('/many', many)))).length).toBe(500);
  });
});
