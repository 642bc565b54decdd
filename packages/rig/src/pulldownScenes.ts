import { Filmed, movingScenes } from './moving.js';

/** A scene as film of 24 a second, to be spread over fields. */
export interface PulldownScene {
  readonly name: string;
  /** Nothing that finds film in fields was tuned on its kind. */
  readonly keptOut: boolean;
  /** Packed yuv420p, without noise; width and height even. */
  readonly picture: (k: number, width: number, height: number) => Uint8Array;
}

/** Moving scenes, those among them that checks were tuned on and those that they were not. */
const SCENES: Readonly<Record<string, boolean>> = {
  'still camera, slow pan': false,
  'hand-held': false,
  zoom: false,
  'crossing objects': false,
  'thin lines': false,
  talking: false,
  'pan of 60': true,
  'whip of 80': true,
  repeating: true,
  floes: true,
  icicles: true,
  'flicker with noise': true,
};

/** Moments of the moving scenes are counted at 25 a second. */
const STEP = 25 / 24;

export function pulldownScenes(seed: number): PulldownScene[] {
  return movingScenes(seed).flatMap((moving) => {
    const keptOut = SCENES[moving.name];
    if (keptOut === undefined) return [];
    return {
      name: moving.name,
      keptOut,
      picture: (k: number, width: number, height: number) => new Filmed(moving, width, height, seed).truth(k * STEP),
    };
  });
}
