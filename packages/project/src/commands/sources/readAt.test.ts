import { positionAt } from '@thawline/core/cadence';
import { type Rate, rate, type Timing } from '@thawline/core/time';
import { base, madeSequence, madeSource, madeStill, newId, place, run } from '../../document/project.fixture.js';
import {
  apply,
  applyDifference,
  type Clip,
  type Command,
  cadenceOf,
  describe as describeCommand,
  mappingOf,
  type NewReading,
  noTiming,
  type Project,
  previewReadAt,
  type Reading,
  readingSpeed,
  readSeconds,
  type Timeline,
  type TimingOf,
  type WholeReading,
} from '../../index.js';

type ReadAt = Extract<Command, { type: 'readAt' }>;

const at = (
  r: Rate,
  more: Partial<WholeReading> | (Partial<NewReading> & Pick<NewReading, 'pictures' | 'held'>) = {},
): Reading => ({
  rate: r,
  pictures: 'once',
  from: 'typed',
  sound: 'along',
  ...more,
});

function readAt(reading: Reading | null, uses: ReadAt['uses'], ...sourceIds: string[]): ReadAt {
  return { type: 'readAt', readings: sourceIds.map((sourceId) => ({ sourceId, reading })), uses, except: [] };
}

const cutOf = (project: Project): Timeline => project.timelines[0] as Timeline;
const pictures = (project: Project): Clip[] => cutOf(project).clips.filter((c) => c.laneId.startsWith('p'));
const spots = (project: Project) => cutOf(project).clips.map((c) => [c.laneId, c.start, c.length]);

/** First and last picture that a clip shows. */
function range(project: Project, id: string, known: TimingOf = noTiming): [number, number] {
  const clip = cutOf(project).clips.find((c) => c.id === id);
  const source = project.sources.find((s) => s.id === clip?.sourceId);
  if (!clip || !source) throw new Error('no clip');
  const mapping = mappingOf(clip, source, cutOf(project), known);
  return [positionAt(mapping, 0).picture, positionAt(mapping, clip.length - 1).picture];
}

/** talk (25), pan (29.97) and floes (50) one after the other, the pan cut at both ends. */
function cut(): Project {
  let project = base;
  for (const name of ['talk', 'pan', 'floes']) project = run(project, place(project, name, undefined, 'p1'));
  const pan = pictures(project)[1] as Clip;
  return run(project, { type: 'trimClip', timelineId: 't', clipId: pan.id, start: pan.start + 17, end: pan.start + 150 });
}

const RATES = [rate(24), rate(25), rate(30000, 1001), rate(24000, 1001), rate(50), rate(12), rate(2702, 100)];

describe('laws', () => {
  test('after any chain of Read at a clip shows the same pictures as after its last step alone, and none outside its range', () => {
    const start = cut();
    const pan = pictures(start)[1] as Clip;
    const [first, last] = range(start, pan.id);
    let seed = 7;
    const pick = <T>(items: readonly T[]): T => {
      seed = (seed * 1103515245 + 12345) % 2147483648;
      return items[seed % items.length] as T;
    };
    for (let chain = 0; chain < 40; chain++) {
      let project = start;
      let r = rate(25);
      for (let step = 0; step < 5; step++) {
        r = pick(RATES);
        project = run(project, readAt(at(r), 'move', 'pan'));
        const [from, to] = range(project, pan.id);
        expect(from).toBe(first);
        expect(to).toBeLessThanOrEqual(last);
        // Where no picture is skipped the last one is shown, too.
        if (r.num / r.den <= 25) expect(to).toBe(last);
      }
      expect(spots(project)).toEqual(spots(run(start, readAt(at(r), 'move', 'pan'))));
      expect(cutOf(run(project, readAt(null, 'move', 'pan'))).clips).toEqual(cutOf(start).clips);
    }
  });

  test.each(['move', 'length', 'time'] as const)('a batch is one step, and taking it back is the identity (%s)', (uses) => {
    const start = cut();
    const applied = apply(start, readAt(at(rate(24)), uses, 'pan', 'floes', 'talk'));
    if (!applied.ok) throw new Error(applied.code);
    expect(applyDifference(applied.project, applied.difference.backward)).toEqual(start);
    expect(applyDifference(start, applied.difference.forward)).toEqual(applied.project);
  });

  test.each(['move', 'length', 'time'] as const)('no clip is lost, none overlap and linked ones stay together (%s)', (uses) => {
    const start = cut();
    for (const r of RATES) {
      const project = run(start, readAt(at(r), uses, 'pan', 'talk', 'floes'));
      expect(cutOf(project).clips.map((c) => c.id)).toEqual(cutOf(start).clips.map((c) => c.id));
      for (const lane of ['p1', 's1']) {
        const onLane = cutOf(project).clips.filter((c) => c.laneId === lane);
        for (let i = 1; i < onLane.length; i++) {
          const before = onLane[i - 1] as Clip;
          expect((onLane[i] as Clip).start).toBeGreaterThanOrEqual(before.start + before.length);
        }
      }
      const pan = cutOf(project).clips.filter((c) => c.sourceId === 'pan');
      expect(pan[0]?.start).toBe(pan[1]?.start);
      expect(pan[0]?.length).toBe(pan[1]?.length);
    }
  });

  test('keeping time shows the same picture at every frame', () => {
    const start = cut();
    for (const r of RATES) {
      const project = run(start, readAt(at(r), 'time', 'pan', 'talk', 'floes'));
      for (const clip of pictures(start)) {
        const before = cadenceOf(start, cutOf(start), clip, noTiming);
        const now = cutOf(project).clips.find((c) => c.id === clip.id) as Clip;
        const after = cadenceOf(project, cutOf(project), now, noTiming);
        expect(now.start).toBe(clip.start);
        expect([...(after?.map.pictures ?? [])]).toEqual([...(before?.map.pictures ?? [])]);
      }
    }
  });
});

describe('worked examples', () => {
  test('29.97 read at 25 on 25 shows each picture once, 240 frames, and what follows moves by 40', () => {
    let project = run(base, place(base, 'pan'));
    project = run(project, place(project, 'talk'));
    const read = run(project, readAt(at(rate(25)), 'move', 'pan'));
    expect(spots(read)).toEqual([
      ['p1', 0, 240],
      ['s1', 0, 240],
      ['p1', 240, 400],
      ['s1', 240, 400],
    ]);
    const preview = previewReadAt(project, readAt(at(rate(25)), 'move', 'pan', 'talk'), noTiming);
    expect(preview).toMatchObject({ matching: 1, moved: 1, untouched: 0 });
    expect(preview.changes).toHaveLength(1);
    expect(preview.changes[0]?.semitones).toBeCloseTo(-3.14, 2);
    expect((preview.changes[0]?.speed.num ?? 0) / (preview.changes[0]?.speed.den ?? 1)).toBeCloseTo(0.834, 3);
    expect(preview.touched).toMatchObject([{ natural: 40, gap: 0, range: { before: [0, 238], after: [0, 239] } }]);
  });

  test('25 read at 24 and kept in time runs 104.1667 %', () => {
    const project = run(run(base, place(base, 'talk')), readAt(at(rate(24)), 'time', 'talk'));
    expect(pictures(project)[0]?.speed).toEqual(rate(25, 24));
    expect(readSeconds(project.sources[2] as (typeof project.sources)[number])).toBeCloseTo(400 / 24, 9);
  });

  test('keeping the length with a faster reading ends with the pictures and tells the gap', () => {
    let project = run(base, place(base, 'talk'));
    project = run(project, place(project, 'pan'));
    const command = readAt(at(rate(50)), 'length', 'talk');
    const read = run(project, command);
    expect(spots(read)).toEqual([
      ['p1', 0, 200],
      ['s1', 0, 200],
      ['p1', 400, 200],
      ['s1', 400, 200],
    ]);
    expect(previewReadAt(project, command, noTiming).touched).toMatchObject([{ natural: -200, gap: 200 }]);
  });

  test('one clip may be told to do otherwise', () => {
    let project = run(base, place(base, 'talk'));
    project = run(project, place(project, 'talk'));
    const [first] = pictures(project) as [Clip];
    const command: ReadAt = { ...readAt(at(rate(24)), 'move', 'talk'), except: [{ clipId: first.id, uses: 'time' }] };
    expect(pictures(run(project, command)).map((c) => [c.start, c.length, c.speed])).toEqual([
      [0, 400, rate(25, 24)],
      [400, 416, rate(1)],
    ]);
  });

  test('keep pictures does not ask for the reading rate and stays', () => {
    let project = run(base, place(base, 'pan'));
    project = run(project, { type: 'setFit', timelineId: 't', clipIds: [pictures(project)[0]?.id ?? ''], fit: 'pictures' });
    const command = readAt(at(rate(50)), 'move', 'pan');
    expect(spots(run(project, command))).toEqual(spots(project));
    expect(previewReadAt(project, command, noTiming)).toMatchObject({ untouched: 1, touched: [] });
  });

  test('clips side by side on two lanes stay so when both grow', () => {
    let project = run(base, place(base, 'talk', 0, 'p1'));
    project = run(project, place(project, 'talk', 100, 'p2'));
    project = run(project, place(project, 'floes', 500, 'p1'));
    const read = run(project, readAt(at(rate(20)), 'move', 'talk'));
    expect(pictures(read).map((c) => [c.laneId, c.start, c.length])).toEqual([
      ['p1', 0, 500],
      ['p2', 100, 500],
      ['p1', 600, 200],
    ]);
  });

  test('clips of one link that stand one after the other give way to each other', () => {
    const one = run(base, place(base, 'talk', 0));
    const two = run(one, place(one, 'talk', 400));
    const linked = run(two, { type: 'linkClips', timelineId: 't', clipIds: cutOf(two).clips.map((c) => c.id), link: 'all' });
    expect(spots(run(linked, readAt(at(rate(20)), 'move', 'talk')))).toEqual([
      ['p1', 0, 500],
      ['s1', 0, 500],
      ['p1', 500, 500],
      ['s1', 500, 500],
    ]);
  });

  test('its own rate is no reading at all, and a still or a bare sequence is refused what it has not', () => {
    const project = run(base, { type: 'addSources', sources: [madeStill('still'), madeSequence('drips', rate(24), 48)] });
    expect(run(project, readAt(at(rate(25)), 'move', 'talk')).sources[2]?.readAt).toBeNull();
    expect(apply(project, readAt(at(rate(25)), 'move', 'still'))).toMatchObject({ ok: false, code: 'no-rate' });
    expect(apply(project, readAt(null, 'move', 'drips'))).toMatchObject({ ok: false, code: 'no-rate' });
    const placed = run(project, place(project, 'still'), place(project, 'drips', 200));
    expect(pictures(placed).map((c) => c.length)).toEqual([125, 50]);
    const long = run(placed, { type: 'trimClip', timelineId: 't', clipId: pictures(placed)[0]?.id ?? '', start: 0, end: 190 });
    expect(pictures(long)[0]?.length).toBe(190);
    const slower = run(long, readAt(at(rate(12)), 'move', 'drips'));
    expect(pictures(slower).map((c) => [c.start, c.length])).toEqual([
      [0, 190],
      [200, 100],
    ]);
  });

  test('the history names what really changes', () => {
    const project = cut();
    expect(describeCommand(readAt(at(rate(24)), 'move', 'pan', 'talk'), project)).toBe('Read 2 sources at 24');
    expect(describeCommand(readAt(null, 'move', 'pan'), project)).toBe('Read pan as measured');
    const read = run(project, readAt(at(rate(24)), 'move', 'pan'));
    expect(describeCommand(readAt(at(rate(24)), 'move', 'pan', 'talk'), read)).toBe('Read talk at 24');
  });
});

describe('variable timing', () => {
  const ticks = [0, 1, 2, 4, 5, 6, 7, 9, 10, 11].map((n) => n * 3000 + (n % 3) * 90);
  const timing: Timing = { kind: 'variable', ticks, end: 36_000, timeBase: rate(90_000) };
  const known: TimingOf = (id) => (id === 'm-phone' ? timing : undefined);
  const phone = { ...madeSource('phone', rate(25), 10), variable: true, seconds: 0.4 };
  const made = run(base, { type: 'addSources', sources: [phone] });
  const project = run(made, {
    type: 'placeClips',
    timelineId: 't',
    clips: [
      {
        id: newId(),
        sourceId: 'phone',
        laneId: 'p1',
        link: null,
        start: 0,
        length: 9,
        inPicture: 1,
        headTrim: 0,
        fit: 'nearest',
        speed: rate(1),
        cut: null,
        framing: 'inside',
        keptAt: null,
        label: null,
        kept: null,
      },
    ],
  });
  const step = (command: Command, from = project): Project => {
    const applied = apply(from, command, known);
    if (!applied.ok) throw new Error(applied.code);
    return applied.project;
  };

  test('made even it keeps its length, and its pictures stand on whole frames of the rate', () => {
    const even = step(readAt(at(rate(30), { pictures: 'even' }), 'move', 'phone'));
    expect(readSeconds(even.sources[3] as typeof phone)).toBe(0.4);
    const cadence = cadenceOf(even, { ...cutOf(even), rate: rate(30) }, pictures(even)[0] as Clip, known);
    expect([...(cadence?.map.pictures.slice(0, 9) ?? [])]).toEqual([1, 2, 2, 3, 4, 5, 6, 6, 7]);
  });

  test('each once, it runs at exactly that rate; and back it is what it was', () => {
    const once = step(readAt(at(rate(25)), 'move', 'phone'));
    expect(range(once, pictures(project)[0]?.id ?? '', known)[0]).toBe(1);
    expect(pictures(once)[0]).toMatchObject({ inPicture: 1, length: 9 });
    expect(cutOf(step(readAt(null, 'move', 'phone'), once)).clips).toEqual(cutOf(project).clips);
  });
});

describe('new pictures only', () => {
  const source = (project: Project) => project.sources.find((s) => s.id === 'talk');
  const total = source(base)?.pictures ?? 0;
  // Every second picture repeats.
  const held = Array.from({ length: total }, (_, k) => k).filter((k) => k % 2 === 1);
  const keep = readAt(at(rate(25, 2), { pictures: 'new', from: 'true', held }), 'move', 'talk');

  test('the action keeps its speed and its length, half of the pictures go, one undo brings them back', () => {
    const start = cut();
    const after = run(start, keep);
    const read = source(after);
    if (!read) throw new Error('no source');
    expect(readSeconds(read)).toBeCloseTo(total / 25, 9);
    expect(readingSpeed(read)).toEqual(rate(1));
    expect(spots(after)).toEqual(spots(start));
    const clip = pictures(after)[0] as Clip;
    const mapping = mappingOf(clip, read, cutOf(after), noTiming);
    for (let n = 0; n < clip.length; n++) expect(positionAt(mapping, n).picture % 2).toBe(0);
    expect(describeCommand(keep, start)).toBe('Keep the new pictures of talk only');
    const applied = apply(start, keep, noTiming);
    if (!applied.ok) throw new Error('refused');
    expect(applyDifference(applied.project, applied.difference.backward)).toEqual(start);
  });

  test('without pictures to leave out it is an ordinary reading', () => {
    const after = run(base, readAt(at(rate(20), { pictures: 'new', held: [] }), 'move', 'talk'));
    expect(source(after)?.readAt).toEqual(at(rate(20)));
  });
});
