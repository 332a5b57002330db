import { fail } from '../../errors';

/** A sound as one line of samples: several channels are mixed. */
export interface Sound {
  /** Samples a second. */
  readonly rate: number;
  readonly samples: Float32Array;
}

/** Largest sound file that is read, bytes. */
export const MAX_SOUND_BYTES = 128 * 2 ** 20;
const [PCM, FLOAT, EXTENSIBLE] = [1, 3, 0xfffe];

/** Whether bytes are those of a WAV file. */
export function isWav(bytes: Uint8Array): boolean {
  return bytes.length >= 12 && tag(bytes, 0) === 'RIFF' && tag(bytes, 8) === 'WAVE';
}

/**
 * Reads a WAV file (RIFF WAVE: linear PCM of 8 to 32 bits, or float), mixed to one line of samples.
 * @throws FaultError sound/wav, file/too-large
 */
export function readWav(bytes: Uint8Array, file?: string): Sound {
  const refuse = (message: string): never => fail('sound/wav', message, { file });
  if (!isWav(bytes)) refuse('this is no WAV file');
  if (bytes.length > MAX_SOUND_BYTES)
    fail('file/too-large', `the sound has ${bytes.length} bytes; at most ${MAX_SOUND_BYTES} are read`, { file });
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  let format: { code: number; lines: number; rate: number; bits: number } | undefined;
  for (let at = 12; at + 8 <= bytes.length;) {
    const [name, size] = [tag(bytes, at), view.getUint32(at + 4, true)];
    const from = at + 8;
    if (name === 'fmt ') {
      if (size < 16 || from + 16 > bytes.length) refuse('its format chunk is cut short');
      const code = view.getUint16(from, true);
      const isExtended = code === EXTENSIBLE && size >= 26 && from + 26 <= bytes.length;
      format = {
        code: isExtended ? view.getUint16(from + 24, true) : code,
        lines: view.getUint16(from + 2, true),
        rate: view.getUint32(from + 4, true),
        bits: view.getUint16(from + 14, true),
      };
    } else if (name === 'data') {
      if (!format) return refuse('its samples come before their format');
      // Recorders that were stopped hard write no length, or one that is too long: what is there is read.
      return mixed(view, from, Math.min(size, bytes.length - from), format, refuse);
    }
    at = from + size + (size % 2);
  }
  return refuse('it holds no samples');
}

function mixed(
  view: DataView,
  from: number,
  size: number,
  { code, lines, rate, bits }: { code: number; lines: number; rate: number; bits: number },
  refuse: (message: string) => never,
): Sound {
  if (lines < 1 || lines > 32) refuse(`it has ${lines} channels`);
  if (rate < 1000 || rate > 400_000) refuse(`it has ${rate} samples a second`);
  const read = reader(view, code, bits);
  if (!read) return refuse(`samples of kind ${code} with ${bits} bits are not read; write it as PCM of 16, 24 or 32 bits, or as float`);
  const width = bits / 8;
  const count = Math.floor(size / (width * lines));
  const samples = new Float32Array(count);
  for (let i = 0; i < count; i++) {
    let sum = 0;
    for (let line = 0; line < lines; line++) sum += read(from + (i * lines + line) * width);
    const value = sum / lines;
    samples[i] = Number.isFinite(value) ? Math.min(1, Math.max(-1, value)) : 0;
  }
  return { rate, samples };
}

/** Reads one sample as −1…1. */
function reader(view: DataView, code: number, bits: number): ((at: number) => number) | undefined {
  if (code === FLOAT && bits === 32) return (at) => view.getFloat32(at, true);
  if (code === FLOAT && bits === 64) return (at) => view.getFloat64(at, true);
  if (code !== PCM) return undefined;
  if (bits === 8) return (at) => (view.getUint8(at) - 128) / 128;
  if (bits === 16) return (at) => view.getInt16(at, true) / 32768;
  if (bits === 24) return (at) => (view.getUint8(at) | (view.getUint8(at + 1) << 8) | (view.getInt8(at + 2) << 16)) / 8388608;
  if (bits === 32) return (at) => view.getInt32(at, true) / 2147483648;
  return undefined;
}

/** Writes a sound as a WAV file of 16 bits and one channel. */
export function writeWav({ rate, samples }: Sound): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(44 + samples.length * 2);
  const view = new DataView(out.buffer);
  const put = (at: number, text: string): void => [...text].forEach((letter, i) => (out[at + i] = letter.charCodeAt(0)));
  put(0, 'RIFF');
  view.setUint32(4, 36 + samples.length * 2, true);
  put(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, PCM, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, rate * 2, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  put(36, 'data');
  view.setUint32(40, samples.length * 2, true);
  samples.forEach((sample, i) => view.setInt16(44 + i * 2, Math.round(Math.min(1, Math.max(-1, sample)) * 32767), true));
  return out;
}

function tag(bytes: Uint8Array, at: number): string {
  return String.fromCharCode(bytes[at], bytes[at + 1], bytes[at + 2], bytes[at + 3]);
}
