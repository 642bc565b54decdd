import { formatRate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { formOf, make } from '@thawline/work';
import { checkCurve, readCurve } from './curve.js';
import { namingFile } from './namingFile.js';
import { print, progressLine } from './out.js';
import { type Values, WrongCall } from './usage.js';
import { methodOf, mixOf, rateOf, shutterOf, speedOf, threadsOf } from './values.js';

export async function makeCommand(files: string[], values: Values): Promise<void> {
  if (files.length !== 2) throw new WrongCall('make wants a file to read and a file to write.');
  const [input, output] = files as [string, string];
  if (values.rate === undefined) throw new WrongCall('make wants --rate.');
  const rate = rateOf(values.rate);
  const method = methodOf(values.method ?? 'nearest');
  const speed = speedOf(values.speed ?? '1');
  const shutterDegrees = shutterOf(values.shutter ?? '0');
  const threads = {
    count: threadsOf(values.threads),
    entry: new URL(import.meta.resolve('@thawline/work/motion/worker')),
  };
  if (!formOf(output)) throw new WrongCall('The file to write has to end in .y4m, .mkv or .mp4.');
  const curve = values.curve === undefined ? null : await readCurve(values.curve);
  const probe = await namingFile(input, ffmpeg.probe(input));
  if (curve && values.curve) checkCurve(curve, values.curve, probe.pictures);
  const options = {
    rate,
    method,
    mix: mixOf(values.mix ?? 'stored'),
    speed,
    shutterDegrees,
    threads,
    ...(curve ? { curve } : {}),
  };
  const made = await namingFile(input, make({ media: ffmpeg, progress: progressLine() }, { input, probe, output, options }));
  if (values.json) return print({ ...made, rate, speed });
  process.stdout.write(
    `${output}: ${made.frames}${made.frames === 1 ? ' frame' : ' frames'} at ${formatRate(rate)}, ${made.real} real, ${made.held} held, ${made.blended} blended, ${made.made} made by motion${cutWords(made.cuts)}${sureWords(made.leastCertainty)}\n`,
  );
}

function cutWords(cuts: number): string {
  return cuts === 0 ? '' : `, ${cuts} at cuts as the nearer picture`;
}

function sureWords(least: number | null): string {
  return least === null ? '' : `; least sure ${least.toFixed(2)}`;
}
