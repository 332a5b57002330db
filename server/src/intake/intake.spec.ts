import { zipSync, strToU8 } from 'fflate';
import * as fc from 'fast-check';
import { type FaultError, packGltf } from '@hollow-stride/core';
import { assemble } from './assemble';
import { isZip, safePath, unpack, type Entry } from './archive';

const entry = (path: string, content: string | Uint8Array = path): Entry => ({
  path,
  bytes: typeof content === 'string' ? strToU8(content) : content,
});
const document = (uri: string): string =>
  JSON.stringify({ asset: { version: '2.0' }, buffers: [{ byteLength: 4, uri }], bufferViews: [{ buffer: 0, byteLength: 4 }] });
const names = (list: readonly Entry[], strict = true): string[] => assemble(list, strict).files.map(({ name }) => name);

describe('an archive', () => {
  it('gives its files with their folders, and none of what systems put in', () => {
    const zip = zipSync({ 'takes/a.bvh': strToU8('A'), '__MACOSX/x': strToU8('x'), 'takes/.hidden': strToU8('x'), 'b.txt': strToU8('B') });
    expect(isZip(zip)).toBeTrue();
    const entries = unpack(zip, 'all.zip');
    expect(entries.map(({ path, bytes }) => [path, Buffer.from(bytes).toString()])).toEqual([
      ['takes/a.bvh', 'A'],
      ['b.txt', 'B'],
    ]);
  });

  it('cannot lead out of its folder', () => {
    fc.assert(
      fc.property(fc.string(), (path) => {
        const safe = safePath(path);
        expect(safe.split('/')).not.toContain('..');
        expect(safe.startsWith('/')).toBeFalse();
      }),
    );
    expect(safePath('..\\..\\etc/./passwd')).toBe('etc/passwd');
  });

  it('that swells beyond the limit, is cut or is none is refused', () => {
    const code = (bytes: Uint8Array, most?: number): string => {
      try {
        unpack(bytes, 'x.zip', most);
        return 'read';
      } catch (error) {
        return (error as FaultError).fault?.code ?? String(error);
      }
    };
    expect(code(zipSync({}))).toBe('archive');
    expect(code(strToU8('PK\u0003\u0004 and then nothing of use'))).toBe('archive');
    const bomb = zipSync({ 'a.bvh': new Uint8Array(8 * 1024 * 1024) }, { level: 9 });
    expect(bomb.length).toBeLessThan(100_000);
    expect(code(bomb, 4 * 1024 * 1024)).toBe('archive');
    expect(code(bomb, 9 * 1024 * 1024)).toBe('read');
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
    const { files, faults, ignored } = assemble(list, true);
    expect([files.map(({ name }) => name), faults.length, ignored.length]).toEqual([['body.gltf', 'body.gltf'], 0, 0]);
    expect(files[1].bytes).toEqual(packGltf(list[2].bytes, 'x', () => list[3].bytes));
    // Picked one by one a browser gives no folders.
    expect(names([entry('body.gltf', document('parts/body.bin')), entry('body.bin', '1234')])).toEqual(['body.gltf']);
    const alone = assemble([entry('body.gltf', document('body.bin'))], true);
    expect(alone.faults[0].fault.message).toContain('body.bin');
  });

  it('give each Acclaim motion its skeleton: the one of its name, else the only one', () => {
    const text = (list: readonly Entry[]): Record<string, string> =>
      Object.fromEntries(assemble(list, true).files.map(({ name, bytes }) => [name, Buffer.from(bytes).toString()]));
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
    expect(assemble(list, false)).toEqual(jasmine.objectContaining({ ignored: ['f/read me.txt', 'f/picture.png'] }));
    expect(names(list)).toEqual(['read me.txt', 'a.bvh', 'picture.png']);
  });
});
