import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync, strToU8 } from 'fflate';
import * as fc from 'fast-check';
import { type FaultError, packGltf } from '@hollow-stride/core';
import { LIMITS } from '@hollow-stride/contract';
import { assemble, type Assembly } from './assemble';
import { isZip, safePath, unpack, type UnpackLimits } from './archive';

interface Given {
  readonly path: string;
  readonly bytes: number;
  readonly content: Uint8Array;
}

const entry = (path: string, content: string | Uint8Array = path): Given => {
  const bytes = typeof content === 'string' ? strToU8(content) : content;
  return { path, bytes: bytes.length, content: bytes };
};
const document = (uri: string): string =>
  JSON.stringify({ asset: { version: '2.0' }, buffers: [{ byteLength: 4, uri }], bufferViews: [{ buffer: 0, byteLength: 4 }] });
const put = (list: readonly Given[], strict = true, most?: number): Assembly<Given> =>
  assemble(list, strict, ({ content }) => content, most);
const names = (list: readonly Given[], strict = true): string[] => put(list, strict).files.map(({ name }) => name);
const contentOf = (file: Assembly<Given>['files'][number]): Uint8Array => ('whole' in file ? file.whole.content : file.make());

describe('an archive', () => {
  let folder: string;
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'hollow-stride-zip-'))));
  afterEach(() => rmSync(folder, { recursive: true }));
  const file = (bytes: Uint8Array): string => {
    const path = join(folder, 'given.zip');
    writeFileSync(path, bytes);
    return path;
  };
  const codeOf = async (bytes: Uint8Array, limits?: UnpackLimits): Promise<string> => {
    try {
      await unpack(file(bytes), 'x.zip', folder, limits);
      return 'read';
    } catch (error) {
      const { fault } = error as FaultError;
      return fault ? `${fault.code} ${fault.where.file}: ${fault.message}` : String(error);
    }
  };

  it('gives its files with their folders, and none of what systems put in', async () => {
    const zip = file(
      zipSync({ 'takes/a.bvh': strToU8('A'), '__MACOSX/x': strToU8('x'), 'takes/.hidden': strToU8('x'), '../b.txt': strToU8('B') }),
    );
    expect(await isZip(zip)).toBeTrue();
    const entries = await unpack(zip, 'all.zip', folder);
    expect(entries.map(({ path, location, bytes }) => [path, readFileSync(location, 'utf8'), bytes])).toEqual([
      ['takes/a.bvh', 'A', 1],
      ['b.txt', 'B', 1],
    ]);
  });

  it('cannot lead out of its folder', () => {
    fc.assert(
      fc.property(fc.string(), (path) => {
        const safe = safePath(path);
        expect(safe.split('/')).not.toContain('..');
        expect(safe.startsWith('/')).toBeFalse();
        expect(safe).not.toContain('\0');
      }),
    );
    expect(safePath('..\\..\\etc/./passwd')).toBe('etc/passwd');
  });

  it('that swells beyond the limit, is cut or is none is refused', async () => {
    expect(await codeOf(zipSync({}))).toContain('archive x.zip: the archive holds no file');
    expect(await codeOf(strToU8('PK\u0003\u0004 and then nothing of use'))).toContain('archive x.zip: the archive cannot be read');
    const bomb = zipSync({ 'a.bvh': new Uint8Array(8 * 1024 * 1024) }, { level: 9 });
    expect(bomb.length).toBeLessThan(100_000);
    expect(await codeOf(bomb, { bytes: 4 * 1024 * 1024 })).toContain('more than 4 MB');
    expect(await codeOf(bomb, { bytes: 9 * 1024 * 1024 })).toBe('read');
    expect(await codeOf(bomb, { milliseconds: 0 })).toContain('took more than 0 s');
    expect(await codeOf(bomb.subarray(0, bomb.length - 30))).toContain('archive x.zip');
  });

  it('of folders and hidden files alone is counted before it is unpacked', async () => {
    const many = Object.fromEntries(Array.from({ length: LIMITS.archiveEntries + 1 }, (_, i) => [`.f${i}/`, new Uint8Array(0)]));
    expect(await codeOf(zipSync(many))).toContain(`lists ${LIMITS.archiveEntries + 1} files and folders`);
  });
});

describe('files that come together', () => {
  it('are joined where they belong together: a glTF document finds its parts beside it', () => {
    const list = [
      entry('one/body.gltf', document('body.bin')),
      entry('one/body.bin', Uint8Array.of(1, 2, 3, 4)),
      entry('two/body.gltf', document('body.bin')),
      entry('two/body.bin', Uint8Array.of(5, 6, 7, 8)),
    ];
    const { files, faults, ignored } = put(list);
    expect([files.map(({ name }) => name), faults.length, ignored.length]).toEqual([['body.gltf', 'body.gltf'], 0, 0]);
    expect(contentOf(files[1])).toEqual(packGltf(list[2].content, 'x', () => list[3].content));
    // Picked one by one a browser gives no folders.
    expect(names([entry('body.gltf', document('parts/body.bin')), entry('body.bin', '1234')])).toEqual(['body.gltf']);
    const [alone] = put([entry('body.gltf', document('body.bin'))]).files;
    expect(() => contentOf(alone)).toThrowError(/body\.bin/);
  });

  it('give each Acclaim motion its skeleton: the one of its name, else the only one', () => {
    const text = (list: readonly Given[]): Record<string, string> =>
      Object.fromEntries(put(list).files.map((file) => [file.name, Buffer.from(contentOf(file)).toString()]));
    const joined = text([
      entry('07.asf', 'S7'),
      entry('07_01.amc', 'M1'),
      entry('07_02.amc', 'M2'),
      entry('08.asf', 'S8'),
      entry('08_01.amc', 'M8'),
    ]);
    expect(joined).toEqual({ '07_01.amc': 'S7\nM1', '07_02.amc': 'S7\nM2', '08_01.amc': 'S8\nM8' });
    expect(text([entry('body.asf', 'S'), entry('walk.amc', 'M')])).toEqual({ 'walk.amc': 'S\nM' });
    expect(text([entry('body.asf', 'S')])).toEqual({ 'body.asf': 'S' });
    expect(text([entry('a.asf', 'A'), entry('b.asf', 'B'), entry('c.amc', 'M')])['c.amc']).toBe('M');
  });

  it('of a folder pass over what is no motion; picked by hand everything is answered for', () => {
    const list = [entry('f/read me.txt'), entry('f/a.bvh'), entry('f/picture.png')];
    expect(put(list, false)).toEqual(jasmine.objectContaining({ ignored: ['f/read me.txt', 'f/picture.png'] }));
    expect(names(list)).toEqual(['read me.txt', 'a.bvh', 'picture.png']);
  });

  it('are not put together beyond a budget: a large skeleton that many motions share says so', () => {
    const list = [entry('body.asf', new Uint8Array(1000)), ...Array.from({ length: 8 }, (_, i) => entry(`body_${i}.amc`, 'M'))];
    const { files, faults } = put(list, true, 5 * 1002);
    expect([files.length, faults.length]).toEqual([5, 3]);
    expect(faults[0].fault.message).toMatch(/put together the files would take more than/);
    let reads = 0;
    const lazy = assemble(list, true, ({ content }) => (reads++, content));
    expect([lazy.files.length, reads]).toEqual([8, 0]);
  });

  it('hold a buffer that is named many times once', () => {
    const uris = Array.from({ length: 150 }, () => ({ byteLength: 4000, uri: 'body.bin' }));
    const views = uris.map((_, buffer) => ({ buffer, byteLength: 4000 }));
    const gltf = JSON.stringify({ asset: { version: '2.0' }, buffers: uris, bufferViews: views });
    const [file] = put([entry('body.gltf', gltf), entry('body.bin', new Uint8Array(4000).fill(7))]).files;
    expect(contentOf(file).length).toBeLessThan(gltf.length + 3 * 4000);
  });
});
