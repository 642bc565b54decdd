import { existsSync } from 'node:fs';
import { mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Media } from '@thawline/media';
import { Sensor } from './canvas.js';
import { type ClipPlan, SOUND_RATE } from './clips.js';
import { woven } from './woven.js';

/** Renders the plan's pictures in order. A repeated moment is the same buffer again. */
export function* picturesOf(plan: ClipPlan): Generator<Uint8Array> {
  const scene = plan.scene();
  const sensor = new Sensor(plan.seed, plan.noise);
  const { width, height, fields } = plan;
  let shown = Number.NaN;
  let picture: Uint8Array = new Uint8Array(0);
  const at = (moment: number): Uint8Array => {
    if (shown !== moment) picture = sensor.expose(scene(moment, width, height), width, height);
    shown = moment;
    return picture;
  };
  for (const [k, moment] of plan.moments.entries()) {
    const first = at(moment);
    yield fields ? woven(first, at(fields.second[k] as number), width, height) : first;
  }
}

/** Mono to interleaved stereo. */
export function stereo(mono: Float32Array): Float32Array {
  const out = new Float32Array(mono.length * 2);
  for (let i = 0; i < mono.length; i++) {
    out[2 * i] = mono[i] as number;
    out[2 * i + 1] = mono[i] as number;
  }
  return out;
}

/**
 * Writes the clip and its truth (NAME.mp4 or the folder NAME with its pictures, and NAME.truth.json) unless both are there already.
 * @returns the clip's path, of numbered pictures the first one's
 */
export async function writeClip(plan: ClipPlan, folder: string, media: Media): Promise<string> {
  const path = join(folder, plan.truth.file);
  const truthPath = join(folder, `${plan.name}.truth.json`);
  if (existsSync(path) && existsSync(truthPath)) return path;
  await mkdir(folder, { recursive: true });
  if (plan.form === 'pictures') return writePictures(plan, folder, truthPath, media);
  const partial = join(folder, `${plan.name}.partial-${process.pid}.mp4`);
  const sound = plan.sound?.() ?? null;
  const request = {
    width: plan.width,
    height: plan.height,
    rate: plan.truth.stored,
    pixelFormat: 'yuv420p',
    form: 'mp4' as const,
    crf: 20,
    threads: 3,
    ...(plan.fields ? { fields: plan.fields.flag } : {}),
    ...(sound ? { sound: { sampleRate: SOUND_RATE, channels: 2 } } : {}),
    ...(plan.truth.ticks ? { ticks: plan.truth.ticks } : {}),
  };
  try {
    await media.encode(partial, request, picturesOf(plan), sound ? [stereo(sound)] : undefined);
    await writeFile(truthPath, `${JSON.stringify(plan.truth, null, 1)}\n`);
    await rename(partial, path);
  } catch (error) {
    await rm(partial, { force: true });
    throw error;
  }
  return path;
}

async function writePictures(plan: ClipPlan, folder: string, truthPath: string, media: Media): Promise<string> {
  const partial = join(folder, `${plan.name}.partial`);
  await rm(partial, { recursive: true, force: true });
  await mkdir(partial);
  const { width, height } = plan;
  const request = { width, height, rate: plan.truth.stored, pixelFormat: 'yuv420p', form: 'png' as const };
  try {
    await media.encode(join(partial, `${plan.name}-%04d.png`), request, picturesOf(plan));
    if (plan.truth.pictures === 1) await rename(join(partial, `${plan.name}-0000.png`), join(partial, `${plan.name}.png`));
    await writeFile(truthPath, `${JSON.stringify(plan.truth, null, 1)}\n`);
    await rm(join(folder, plan.name), { recursive: true, force: true });
    await rename(partial, join(folder, plan.name));
  } catch (error) {
    await rm(partial, { recursive: true, force: true });
    throw error;
  }
  return join(folder, plan.truth.file);
}
