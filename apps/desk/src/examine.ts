import { stat } from 'node:fs/promises';
import { type DeskSpec, type FileFacts, objections, type Reason } from '@thawline/desk';
import { ffmpeg, MediaError } from '@thawline/media';
import { check, loudnessOfFile } from '@thawline/work';

/** Measures what was handed over, knowing nothing of where it comes from, and holds it against the specification. */
export async function examine(path: string, name: string, spec: DeskSpec): Promise<Reason[]> {
  try {
    return objections(spec, await factsOf(path, name, spec));
  } catch (error) {
    if (!(error instanceof MediaError)) throw error;
    return [{ what: 'ending', wanted: 'a film file that can be read', found: error.message }];
  }
}

async function factsOf(path: string, name: string, spec: DeskSpec): Promise<FileFacts> {
  const probe = await ffmpeg.probe(path);
  const { size } = await stat(path);
  const looked = !spec.heldPictures && probe.kind === 'film' && probe.pictures > 1;
  const checked = looked ? await check(ffmpeg, path, probe, () => undefined) : null;
  const { loudness, peak } = probe.sound ? await loudnessOfFile(ffmpeg, path) : { loudness: null, peak: null };
  return {
    ...{ name, bytes: size, loudness, peak },
    rate: probe.measured?.rate ?? null,
    even: !probe.variable,
    width: probe.width,
    height: probe.height,
    held: checked?.verdict.held.length ?? null,
    timecode: probe.timecode,
  };
}
