import { rename, rm } from 'node:fs/promises';
import type { Media } from '@thawline/media';

/**
 * Puts a fault into a finished film: one of its pictures gives way to the one before it. Everything else stays as it is (rate, colours,
 * sound, timecode), coded anew so finely that nothing else is seen to differ.
 * @param picture above 0
 */
export async function holdPicture(media: Media, path: string, picture: number): Promise<void> {
  const probe = await media.probe(path);
  if (!(picture > 0 && picture < probe.pictures)) throw new RangeError(`there is no picture ${picture} to hold`);
  const { width, height, pixelFormat, colour, measured, sound, timecode } = probe;
  if (!measured) throw new RangeError('numbered pictures and stills have no time to hold for');
  const partial = `${path}.faulty.mp4`;
  const pictures = async function* (): AsyncGenerator<Uint8Array> {
    let before: Uint8Array | null = null;
    let k = 0;
    for await (const own of media.openPictures(path, probe, { pixelFormat })) {
      yield k++ === picture && before ? before : own;
      before = own;
    }
  };
  const encoding = {
    width,
    height,
    pixelFormat,
    rate: measured.rate,
    form: 'mp4' as const,
    crf: 12,
    ...(colour?.matrix && colour.range ? { colour: { ...colour, matrix: colour.matrix, range: colour.range } } : {}),
  };
  const heard = sound ? { sampleRate: 48_000, channels: 2 } : null;
  try {
    await media.encode(partial, encoding, pictures());
    const join = { parts: [{ path: partial, pictures: probe.pictures }], rate: measured.rate, form: 'mp4' as const };
    const more = { ...(timecode ? { timecode } : {}), ...(heard ? { sound: heard } : {}) };
    await media.join(`${partial}.whole`, { ...join, ...more }, heard ? media.openSound(path, heard) : undefined);
    await rename(`${partial}.whole`, path);
  } finally {
    for (const left of [partial, `${partial}.whole`]) await rm(left, { force: true });
  }
}
