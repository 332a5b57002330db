import { LANDMARKS_FORMAT, type FitChoices, type LandmarksFile } from '../recipe';
import type { Landmarks } from './landmarks';

/** What a landmarks file is made of, and laid on: a body's height and middle, metres. */
export interface Measured {
  readonly height: number;
  readonly middle: number;
}

/** The landmarks of a mesh as a file: for the next mesh. */
export function landmarksFile(
  { height, middle, landmarks }: Measured & { readonly landmarks: Landmarks },
  { mirrored, detail }: FitChoices,
): LandmarksFile {
  const rounded = (v: number): number => Math.round(v * 1e5) / 1e5;
  const places = Object.entries(landmarks).map(([name, [x, y, z]]) => [name, [x - middle, y, z].map(rounded)]);
  const hocks = 'left.hock' in landmarks;
  return {
    format: LANDMARKS_FORMAT,
    version: 1,
    height,
    mirrored,
    hocks,
    detail,
    landmarks: Object.fromEntries(places) as LandmarksFile['landmarks'],
  };
}

/** Choices with the landmarks of a file, scaled to another body. */
export function withLandmarks(choices: FitChoices, { height, middle }: Measured, file: LandmarksFile): FitChoices {
  const scale = height / file.height;
  const places = Object.entries(file.landmarks).map(([name, [x, y, z]]) => [name, [x * scale + middle, y * scale, z * scale]]);
  const landmarks = Object.fromEntries(places) as FitChoices['landmarks'];
  return { ...choices, landmarks, mirrored: file.mirrored, hocks: file.hocks, detail: file.detail };
}
