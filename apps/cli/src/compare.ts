import { spread } from '@thawline/core/align';
import { formatExact } from '@thawline/core/time';
import { ffmpeg, sentence } from '@thawline/media';
import { align, compare, SoundError } from '@thawline/work';
import { alignJson, compareJson } from './json.js';
import { namingFile } from './namingFile.js';
import { print, progressLine } from './out.js';
import { type Values, WrongCall } from './usage.js';

/** Two files beside each other: by their pictures, by their sound. */

export async function compareCommand(files: string[], values: Values): Promise<void> {
  if (files.length !== 2) throw new WrongCall('compare wants two files.');
  const [a, b] = files as [string, string];
  const [probeA, probeB] = [await namingFile(a, ffmpeg.probe(a)), await namingFile(b, ffmpeg.probe(b))];
  const found = await namingFile(
    b,
    compare({ media: ffmpeg, progress: progressLine() }, { a: { path: a, probe: probeA }, b: { path: b, probe: probeB } }),
  );
  if (found.certainty < 0.5) process.exitCode = 1;
  if (values.json) return print(compareJson(a, b, found));
  process.stdout.write(
    found.certainty < 0.5
      ? `${b} does not show the pictures of ${a}.\n`
      : `${b} shows ${a} from ${found.offsetSeconds.toFixed(3)} s at ${(found.speed * 100).toFixed(3)} %: ${found.path.length} pictures matched, ${found.droppedFromA.length} dropped, ${found.repeatedInB.length} repeated, ${found.blendsInB.length} mixed\n`,
  );
}

export async function alignCommand(files: string[], values: Values): Promise<void> {
  if (files.length !== 2) throw new WrongCall('align wants two files.');
  const [a, b] = files as [string, string];
  const [probeA, probeB] = [await namingFile(a, ffmpeg.probe(a)), await namingFile(b, ffmpeg.probe(b))];
  const work = align(
    { media: ffmpeg, progress: progressLine() },
    { a: { path: a, probe: probeA }, b: { path: b, probe: probeB } },
  );
  const found = await work.catch((error: unknown) => {
    if (error instanceof SoundError) throw new Error(sentence(error.code, error.which === 'a' ? a : b, error.detail));
    throw error;
  });
  const { solution, certainty, ties } = found;
  const matched = certainty >= 0.5 && solution !== null;
  if (!matched) process.exitCode = 1;
  if (values.json) return print(alignJson(a, b, found));
  if (!matched) {
    process.stdout.write(`The sounds of ${a} and ${b} do not match.\n`);
    return;
  }
  const drift = solution.drifts
    ? `its clock runs ${formatExact(solution.ratio)}, ${solution.driftPpm >= 0 ? '+' : ''}${solution.driftPpm.toFixed(1)} ppm`
    : 'its ties lie too close together to tell a drift';
  process.stdout.write(
    `${b} lies ${Math.abs(solution.offsetSeconds).toFixed(4)} s ${solution.offsetSeconds >= 0 ? 'later' : 'earlier'} on its own clock than ${a}; ${drift}; ${ties.length} ties, ${(spread(solution) * 1000).toFixed(2)} ms left over\n`,
  );
}
