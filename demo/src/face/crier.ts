/** The face and the voice of the Town crier, recorded apart from the body by a device of its own. */
import { faceCsv, random, writeWav, type Sound } from '@hollow-stride/core';
import { hold } from '../takes/moods';
import { CRIER } from '../takes/crier';
import { RECORDED_CHANNELS } from './channels';

/** Frames a second of the face recorder. */
const RATE = 60;
/** The recorder was started this much later than the body's, seconds. */
export const CRIER_LATE = 0.8;
/** Samples a second of its microphone. */
const SAMPLES = 16_000;
const SECONDS = CRIER.seconds - 0.9;

/** Seconds of the performance at a second of the recorder. */
const performed = (recorded: number): number => recorded + CRIER_LATE - CRIER.leadIn;

/** How far a call is open: syllables within each call, longest at its end. */
function voice(t: number): number {
  return CRIER.calls.reduce((sum, at) => {
    const inside = hold(t, at + 0.1, at + 0.3, at + 1.2, at + 1.5);
    return sum + inside * (0.55 + 0.45 * Math.sin((t - at) * 2 * Math.PI * (t - at < 0.8 ? 3.2 : 1.1) - 0.6));
  }, 0);
}

const BLINKS = [0.9, 2.4, 3.25, 4.6, 5.15, 6.6, 7.4, 8.7];
const blink = (t: number): number => BLINKS.reduce((sum, at) => sum + hold(t, at - 0.07, at, at + 0.04, at + 0.17), 0);

/** What each channel does at a moment of the performance; those that are not named rest. */
function expression(t: number): Record<string, number> {
  const open = Math.max(0, voice(t));
  const calling = CRIER.calls.reduce((sum, at) => sum + hold(t, at - 0.2, at + 0.2, at + 1.2, at + 1.7), 0);
  const look = CRIER.look(t) / 34;
  const proud = hold(t, CRIER.seconds - 1.9, CRIER.seconds - 1.3, CRIER.seconds - 0.5, CRIER.seconds);
  const lids = blink(t);
  return {
    eyeBlinkLeft: 0.06 + 0.9 * lids,
    eyeBlinkRight: 0.05 + 0.88 * lids,
    eyeSquintLeft: 0.1 + 0.35 * calling + 0.2 * proud,
    eyeSquintRight: 0.1 + 0.33 * calling + 0.2 * proud,
    eyeWideLeft: 0.3 * calling * (1 - lids),
    eyeWideRight: 0.3 * calling * (1 - lids),
    eyeLookOutLeft: 0.5 * Math.max(0, look),
    eyeLookInRight: 0.5 * Math.max(0, look),
    eyeLookInLeft: 0.5 * Math.max(0, -look),
    eyeLookOutRight: 0.5 * Math.max(0, -look),
    eyeLookUpLeft: 0.25 * calling,
    eyeLookUpRight: 0.25 * calling,
    jawOpen: 0.05 + 0.78 * open,
    jawForward: 0.12 * calling,
    mouthClose: 0.05 * (1 - open),
    mouthFunnel: 0.45 * open * (0.5 + 0.5 * Math.sin(t * 5)),
    mouthPucker: 0.3 * open * (0.5 - 0.5 * Math.sin(t * 5)),
    mouthSmileLeft: 0.1 + 0.6 * proud,
    mouthSmileRight: 0.08 + 0.5 * proud,
    mouthStretchLeft: 0.35 * open * (0.5 + 0.5 * Math.cos(t * 4)),
    mouthStretchRight: 0.33 * open * (0.5 + 0.5 * Math.cos(t * 4)),
    mouthLowerDownLeft: 0.4 * open,
    mouthLowerDownRight: 0.42 * open,
    mouthUpperUpLeft: 0.3 * open,
    mouthUpperUpRight: 0.28 * open,
    mouthPressLeft: 0.2 * hold(t, 1.2, 1.5, 1.9, 2.2),
    mouthPressRight: 0.2 * hold(t, 1.2, 1.5, 1.9, 2.2),
    browInnerUp: 0.1 + 0.5 * calling,
    browOuterUpLeft: 0.08 + 0.55 * calling,
    browOuterUpRight: 0.08 + 0.5 * calling,
    browDownLeft: 0.25 * hold(t, 1.1, 1.5, 1.9, 2.3),
    browDownRight: 0.22 * hold(t, 1.1, 1.5, 1.9, 2.3),
    cheekSquintLeft: 0.2 * calling + 0.3 * proud,
    cheekSquintRight: 0.2 * calling + 0.3 * proud,
    cheekPuff: 0.35 * hold(t, 1.5, 1.7, 1.8, 2),
    noseSneerLeft: 0.1 * calling,
    noseSneerRight: 0.1 * calling,
  };
}

/** Frames that the recorder lost, and a channel that it mistook for one frame. */
const LOST = { from: 250, frames: 7 };
const MISTAKEN = { frame: 390, channel: 'browDownLeft', value: 0.94 };

/** The crier's face as a table: 52 channels, 60 a second, begun late; a hole and a spike; the tongue never shows. */
export function crierFace(): string {
  const { normal } = random(173);
  const times: number[] = [];
  const rows: number[] = [];
  for (let f = 0; f < SECONDS * RATE; f++) {
    if (f >= LOST.from && f < LOST.from + LOST.frames) continue;
    times.push(f / RATE);
    const now = expression(performed(f / RATE));
    for (const channel of RECORDED_CHANNELS) {
      const value = channel in now ? now[channel] + 0.004 * normal() : 0;
      const isMistaken = f === MISTAKEN.frame && channel === MISTAKEN.channel;
      rows.push(isMistaken ? MISTAKEN.value : Math.min(1, Math.max(0, value)));
    }
  }
  return faceCsv({ channels: RECORDED_CHANNELS, times, values: rows });
}

/** The same recorder's sound: a clap of the hands, and a voice whose loudness is the mouth's opening. */
export function crierSound(): Uint8Array {
  const { normal } = random(179);
  const count = Math.round(SECONDS * SAMPLES);
  const samples = new Float32Array(count);
  const clap = CRIER.clap + CRIER.leadIn - CRIER_LATE;
  // Two resonances of a throat, as filters with two poles each.
  const throat = [resonance(620, 90), resonance(1150, 130)];
  let phase = 0;
  for (let i = 0; i < count; i++) {
    const seconds = i / SAMPLES;
    const t = performed(seconds);
    const loud = Math.max(0, voice(t));
    phase += (128 + 26 * loud + 3 * Math.sin(seconds * 33)) / SAMPLES;
    phase -= Math.floor(phase);
    const source = loud * (0.5 - phase) + 0.02 * loud * normal();
    const since = seconds - clap;
    const slap = since >= 0 && since < 0.12 ? 0.8 * Math.exp(-since / 0.012) * normal() * 0.4 : 0;
    samples[i] = 0.12 * throat.reduce((sum, filter) => sum + filter(source), 0) + slap + 0.0015 * normal();
  }
  const sound: Sound = { rate: SAMPLES, samples };
  return writeWav(sound);
}

function resonance(hertz: number, width: number): (x: number) => number {
  const r = Math.exp((-Math.PI * width) / SAMPLES);
  const [a, b] = [2 * r * Math.cos((2 * Math.PI * hertz) / SAMPLES), -r * r];
  let [y1, y2] = [0, 0];
  return (x) => {
    const y = (1 - r) * x + a * y1 + b * y2;
    [y1, y2] = [y, y1];
    return y;
  };
}
