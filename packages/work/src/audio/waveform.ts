import { open, rm } from 'node:fs/promises';
import { join } from 'node:path';
import {
  integratedLoudness,
  LOUDNESS_STEP,
  LoudnessMeter,
  type LoudnessSteps,
  peakLevel,
  WAVE_LEVELS,
  WaveMaker,
} from '@thawline/core/sound';
import { MediaError } from '@thawline/media';
import type { SourceFile } from '../compose/input.js';
import { atomicWrite } from '../files/atomicWrite.js';
import type { JobContext, MediaContext } from '../jobs/context.js';
import { SOUND_CHANNELS, SOUND_RATE } from './stretch.js';

/** How loud a sound is: EBU R 128 in LUFS, its true peak in dBTP (ITU-R BS.1770-4); null for silence. */
export interface Loudness {
  readonly loudness: number | null;
  readonly peak: number | null;
}

/**
 * Where a source's waveform lies: all levels, the finest first, the steps of its loudness, then what there is of each. Named by what peaks
 * in it are: those of before were largest samples, and are made anew.
 */
export function waveFile(folder: string): string {
  return join(folder, 'sound-true-peak.wave');
}

/** Bytes of one bin, and of the numbers at the end: bins of each level, and steps. */
const BIN = 4;
const TAIL = 4 * (WAVE_LEVELS.length + 1);

/** Computes a sound's waveform and loudness once, in one go; 15 MB an hour on disk. */
export async function makeWave(
  context: JobContext,
  { path, probe, folder }: SourceFile & { readonly folder: string },
): Promise<Loudness> {
  const { media, progress, signal } = context;
  if (!probe.sound) throw new MediaError('no-sound');
  const wave = new WaveMaker(SOUND_RATE, SOUND_CHANNELS);
  const meter = new LoudnessMeter(SOUND_CHANNELS);
  const total = Math.max(1, Math.round(probe.sound.seconds));
  let result: Loudness = { loudness: null, peak: null };
  await atomicWrite(waveFile(folder), async (partial) => {
    const file = await open(partial, 'w');
    try {
      const counts: number[] = [0];
      let samples = 0;
      const write = async (bins: Int16Array): Promise<void> => {
        await file.write(new Uint8Array(bins.buffer, bins.byteOffset, bins.byteLength));
      };
      const request = { sampleRate: SOUND_RATE, channels: SOUND_CHANNELS, signal };
      for await (const block of media.openSound(path, request)) {
        const bins = wave.push(block);
        meter.push(block);
        counts[0] = (counts[0] as number) + bins.length / 2;
        await write(bins);
        samples += block.length / SOUND_CHANNELS;
        progress(Math.min(total, Math.floor(samples / SOUND_RATE)), total, 'drawing its sound');
      }
      const { rest, coarse } = wave.finish();
      counts[0] = (counts[0] as number) + rest.length / 2;
      await write(rest);
      for (const bins of coarse) {
        counts.push(bins.length / 2);
        await write(bins);
      }
      const steps = meter.finish();
      for (const part of [steps.energy, steps.peak]) await file.write(new Uint8Array(part.buffer));
      await file.write(new Uint8Array(Uint32Array.from([...counts, steps.energy.length]).buffer));
      result = loudnessOf(steps);
    } finally {
      await file.close();
    }
  });
  await rm(join(folder, 'sound.wave'), { force: true });
  return result;
}

function loudnessOf({ energy, peak }: LoudnessSteps): Loudness {
  return { loudness: integratedLoudness(energy), peak: peakLevel(peak) };
}

/** Loudness and peak of all of a file's sound. */
export async function loudnessOfFile(context: MediaContext, path: string): Promise<Loudness> {
  const { media, signal } = context;
  const meter = new LoudnessMeter(SOUND_CHANNELS);
  const request = { sampleRate: SOUND_RATE, channels: SOUND_CHANNELS, signal };
  for await (const block of media.openSound(path, request)) meter.push(block);
  return loudnessOf(meter.finish());
}

/** Bins of a level, from one on; fewer where it ends. Rejects with ENOENT while there is no waveform. */
export async function readWave(folder: string, level: number, from: number, count: number): Promise<Uint8Array> {
  const file = await open(waveFile(folder));
  try {
    const counts = await countsOf(file);
    const before = counts.slice(0, level).reduce((sum, n) => sum + n, 0);
    const bins = Math.max(0, Math.min(count, (counts[level] ?? 0) - from));
    const bytes = new Uint8Array(bins * BIN);
    if (bins > 0) await file.read(bytes, 0, bytes.length, (before + from) * BIN);
    return bytes;
  } finally {
    await file.close();
  }
}

/** Loudness of a stretch in seconds of the sound, from what was measured of it. */
export async function readLoudness(folder: string, from: number, to: number): Promise<Loudness> {
  const file = await open(waveFile(folder));
  try {
    const counts = await countsOf(file);
    const steps = counts.at(-1) ?? 0;
    const at = counts.slice(0, -1).reduce((sum, n) => sum + n, 0) * BIN;
    const first = Math.max(0, Math.min(steps, Math.floor(from / LOUDNESS_STEP)));
    const end = Math.max(first, Math.min(steps, Math.ceil(to / LOUDNESS_STEP)));
    const take = async (offset: number): Promise<Float32Array> => {
      const values = new Float32Array(end - first);
      if (values.length > 0) await file.read(new Uint8Array(values.buffer), 0, values.byteLength, at + (offset + first) * 4);
      return values;
    };
    return loudnessOf({ energy: await take(0), peak: await take(steps) });
  } finally {
    await file.close();
  }
}

async function countsOf(file: Awaited<ReturnType<typeof open>>): Promise<number[]> {
  const { size } = await file.stat();
  const tail = new Uint32Array(TAIL / 4);
  await file.read(new Uint8Array(tail.buffer), 0, TAIL, size - TAIL);
  return [...tail];
}
