import { calmSeconds, quickPans } from '@thawline/core/motion';
import { formatRate, rateToNumber } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { fieldKindWords, partWords, toldRate } from '@thawline/project';
import { check, heldOut, measurePan } from '@thawline/work';
import { checkJson } from './json.js';
import { namingFile } from './namingFile.js';
import { print, progressLine } from './out.js';
import { type Values, WrongCall } from './usage.js';
import { checkedPart, only, optional } from './values.js';

/** What one file's pictures tell: its true rate, what its motion allows, how its camera moves. */

export async function checkCommand(files: string[], values: Values): Promise<void> {
  const file = only(files, 1);
  const part = checkedPart(values);
  const probe = await namingFile(file, ffmpeg.probe(file));
  const { verdict, counter } = await namingFile(
    file,
    check({ media: ffmpeg, progress: progressLine() }, { path: file, probe, options: part }),
  );
  if (values.json) return print({ ...checkJson(file, verdict, probe), counter });
  const told = toldRate(verdict);
  process.stdout.write(
    `${file}: true rate ${told === null ? 'not told' : told.toFixed(3)} of ${verdict.storedRate.toFixed(3)}, ${verdict.kind}, ${verdict.held.length} held, ${verdict.jumps.length} jumps, ${verdict.cuts.length} cuts, ${verdict.faults.length} faults; ${fieldKindWords(verdict.fields)}${verdict.fields.flag === 'wrong' && verdict.fields.kind !== 'none' ? ', flagged wrongly' : ''}${partWords(verdict.parts).replace(' Parts', '; parts')}\n`,
  );
}

export async function heldOutCommand(files: string[], values: Values): Promise<void> {
  const file = only(files, 1);
  const probe = await namingFile(file, ffmpeg.probe(file));
  const found = await namingFile(file, heldOut({ media: ffmpeg, progress: progressLine() }, { path: file, probe }));
  if (values.json) return print(found);
  const worst = found.perPicture.reduce((a, b) => (b.psnr < a.psnr ? b : a));
  process.stdout.write(
    `${file}: ${found.perPicture.length} pictures hidden and made again: PSNR ${found.psnr.toFixed(2)} dB, SSIM ${found.ssim.toFixed(4)}; picture ${worst.picture} is the worst with ${worst.psnr.toFixed(2)} dB\n`,
  );
}

export async function panCommand(files: string[], values: Values): Promise<void> {
  const file = only(files, 1);
  const shownAt = optional(values.rate);
  const probe = await namingFile(file, ffmpeg.probe(file));
  const { shifts } = await namingFile(file, measurePan({ media: ffmpeg, progress: progressLine() }, { path: file, probe }));
  const rate = shownAt ?? probe.measured?.rate ?? probe.stored;
  if (!rate) throw new WrongCall(`${file} has no rate of its own: say --rate.`);
  const pans = quickPans(shifts, rateToNumber(rate));
  if (values.json) return print({ rate, shifts, pans });
  const words = pans.map((p) => `pictures ${p.from} to ${p.to - 1} cross the frame in ${p.seconds.toFixed(1)} s`);
  process.stdout.write(
    `${file} at ${formatRate(rate)}: ${words.length === 0 ? `nothing crosses the frame in under ${calmSeconds(rateToNumber(rate)).toFixed(1)} s` : words.join('; ')}\n`,
  );
}
