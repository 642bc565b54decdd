import { stat } from 'node:fs/promises';
import { FIELDS_PROVED } from '@thawline/core/truth';
import { type DeskSpec, type FileFacts, type FrameKind, objections, type Reason } from '@thawline/desk';
import { ffmpeg, MediaError, type Probe } from '@thawline/media';
import { check, JobError, type JobResult, loudnessOfFile, runInThread } from '@thawline/work';

/** Looks for held pictures. It computes for long: see checkInThread. */
export type Checker = (path: string, probe: Probe) => Promise<JobResult<'check'>>;

export const checkHere: Checker = (path, probe) => check({ media: ffmpeg, progress: () => undefined }, { path, probe });

const WORKER = new URL(import.meta.resolve('@thawline/work/jobs/worker'));

/** Runs in its own thread, so that a long examination does not block other requests. */
export const checkInThread: Checker = (path, probe) =>
  runInThread(WORKER, { kind: 'check', specification: { path, probe } }, { progress: () => undefined });

/** Measures what was handed over, knowing nothing of where it comes from, and holds it against the specification. */
export async function examine(path: string, name: string, spec: DeskSpec, checker: Checker): Promise<Reason[]> {
  try {
    return objections(spec, await factsOf(path, name, spec, checker));
  } catch (error) {
    if (!(error instanceof MediaError || error instanceof JobError)) throw error;
    return [{ what: 'ending', wanted: 'a film file that can be read', found: error.message }];
  }
}

async function factsOf(path: string, name: string, spec: DeskSpec, checker: Checker): Promise<FileFacts> {
  const probe = await ffmpeg.probe(path);
  const { size } = await stat(path);
  const looked = (!spec.heldPictures || spec.fields !== 'any') && probe.kind === 'film' && probe.pictures > 1;
  const checked = looked ? await checker(path, probe) : null;
  const { loudness, peak } = probe.sound ? await loudnessOfFile({ media: ffmpeg }, path) : { loudness: null, peak: null };
  return {
    name,
    bytes: size,
    loudness,
    peak,
    rate: probe.measured?.rate ?? null,
    even: !probe.variable,
    width: probe.width,
    height: probe.height,
    held: checked?.verdict.held.length ?? null,
    fields: { said: probe.fields === 'progressive' ? 'whole' : probe.fields, found: checked && foundIn(checked.verdict.fields) },
    timecode: probe.timecode,
  };
}

function foundIn({ kind, first, certainty }: JobResult<'check'>['verdict']['fields']): FrameKind | null {
  if (certainty < FIELDS_PROVED) return null;
  return kind === 'none' ? 'whole' : first;
}
