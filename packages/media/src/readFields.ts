import { type FieldRun, FRAMES_BESIDE, fieldTiming, openRebuilder, planFields, weaveFields } from '@thawline/core/fields';
import { pictureBytes, pixelLayout, settledColour } from '@thawline/core/picture';
import { averageRate, pictureCount, type Timing, timingSeconds } from '@thawline/core/time';
import { type FieldsRead, type Known, MediaError, type PictureRequest, type Pictures, type Probe } from './port.js';

/**
 * A file's facts as they are when its fields are read so: its pictures are then others than the frames that it stores. Throws a RangeError where the
 * runs do not end with the file.
 * @param probe of the file itself
 */
export function probeWithFields(probe: Probe, runs: readonly FieldRun[]): Probe {
  const stored = probe.timing;
  if (probe.kind !== 'film' || probe.height % 2 !== 0) throw new RangeError('there are no fields in it');
  if (runs.at(-1)?.to !== pictureCount(stored)) throw new RangeError('the runs of fields do not end with the file');
  const plan = planFields(runs);
  const made = fieldTiming(runs, plan, stored);
  // Facts of a file are kept as JSON.
  const timing: Timing = made.kind === 'variable' ? { ...made, ticks: Array.from(made.ticks) } : made;
  const measured = averageRate(timing);
  if (!measured) throw new RangeError('there are no fields in it');
  return {
    ...probe,
    pictures: plan.pictures,
    timing,
    measured: { rate: measured, ppm: probe.measured?.ppm ?? 0 },
    variable: timing.kind === 'variable',
    seconds: timingSeconds(timing),
    fields: 'progressive',
    flagged: true,
    fieldsRead: { runs, stored },
  };
}

/** Count and times of the frames that a file stores, however its fields are read. */
export function asStored({ pictures, timing, fieldsRead }: Probe): Pick<Probe, 'pictures' | 'timing' | 'fieldsRead'> {
  if (!fieldsRead) return { pictures, timing };
  return { pictures: pictureCount(fieldsRead.stored), timing: fieldsRead.stored, fieldsRead: undefined };
}

/** What is asked of the stored frames. */
type OpenStored = (known: Known, request: PictureRequest) => Pictures;

/**
 * Pictures of a file whose fields are read in another way than as stored frames: whole ones as they are, others put together from two frames' lines, or
 * rebuilt from one field. Each is a buffer of its own.
 */
export async function* picturesOfFields(
  open: OpenStored,
  known: Known,
  { runs, stored }: FieldsRead,
  request: Pick<PictureRequest, 'pixelFormat' | 'from' | 'count' | 'threads' | 'signal'>,
): AsyncGenerator<Uint8Array> {
  const { width, height } = known;
  const layout = pixelLayout(request.pixelFormat);
  if (!layout) throw new MediaError('decode-failed', `no such pixel format: ${request.pixelFormat}`);
  const plan = planFields(runs);
  const from = request.from ?? 0;
  const end = Math.min(plan.pictures, from + (request.count ?? plan.pictures));
  if (from >= end) return;
  const first = Math.max(0, (plan.firstField(from) >> 1) - FRAMES_BESIDE);
  const frames = new StoredFrames(
    open({ ...known, timing: stored, fieldsRead: undefined }, { ...request, from: first, count: undefined }),
    first,
  );
  const full = settledColour(known.colour, height).range === 'full';
  const rebuilder = openRebuilder(layout, { width, height }, { ...(known.alpha ? { alpha: known.alpha } : {}), full });
  const bytes = pictureBytes(layout, width, height);
  const runAt = runsInOrder(runs);
  try {
    for (let k = from; k < end; k++) {
      const { top, bottom } = plan.at(k);
      const [kept, other] = [top ?? bottom, bottom ?? top] as [number, number];
      const own = await frames.at(Math.max(kept, other));
      if (!own) return;
      if (top === bottom) yield own.slice();
      else if (top === null || bottom === null) {
        const run = runAt(kept);
        const beside = Array.from({ length: 2 * FRAMES_BESIDE + 1 }, (_, i) => kept + i - FRAMES_BESIDE);
        // The furthest one first: the others are kept by then.
        await frames.at(kept + FRAMES_BESIDE);
        const around = await Promise.all(beside.map((n) => frames.at(n)));
        const window = {
          number: kept,
          frames: around,
          keeps: top === null ? ('bottom' as const) : ('top' as const),
          first: run.way === 'progressive' ? ('top' as const) : run.first,
        };
        const out = new Uint8Array(bytes);
        rebuilder.rebuild(window, out);
        yield out;
      } else {
        const [a, b] = [await frames.at(top), await frames.at(bottom)];
        if (!a || !b) return;
        const out = new Uint8Array(bytes);
        weaveFields(layout, { width, height, first: a, second: b, order: 'top', lowPass: 'off', out });
        yield out;
      }
    }
  } finally {
    await frames.close();
  }
}

/** The run with a frame, where frames are asked for in rising order. */
function runsInOrder(runs: readonly FieldRun[]): (frame: number) => FieldRun {
  let i = 0;
  return (frame) => {
    while ((runs[i] as FieldRun).to <= frame) i++;
    while ((runs[i] as FieldRun).from > frame) i--;
    return runs[i] as FieldRun;
  };
}

/** Stored frames by number, asked for in nearly rising order: the last few are kept. */
class StoredFrames {
  private readonly kept = new Map<number, Uint8Array>();
  private readonly pictures: AsyncIterator<Uint8Array>;
  private ended = false;

  constructor(
    pictures: Pictures,
    private next: number,
  ) {
    this.pictures = pictures[Symbol.asyncIterator]();
  }

  /** Null before the first one that was decoded and after the last. */
  async at(frame: number): Promise<Uint8Array | null> {
    while (!this.ended && this.next <= frame) {
      const { done, value } = await this.pictures.next();
      if (done) this.ended = true;
      else {
        this.kept.set(this.next++, value);
        this.kept.delete(this.next - KEPT - 1);
      }
    }
    return this.kept.get(frame) ?? null;
  }

  async close(): Promise<void> {
    await this.pictures.return?.();
  }
}

/** A picture lies in two frames at most; the ones beside it are looked at, too. */
const KEPT = 2 * FRAMES_BESIDE + 2;
