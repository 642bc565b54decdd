import type { Tie } from '@thawline/core/align';
import { type Rate, rate } from '@thawline/core/time';
import fc from 'fast-check';
import { base, madeSequence, madeSound, madeSource, madeStill, place, run } from '../document/project.fixture.js';
import {
  apply,
  applyDifference,
  type Clip,
  type CommandInput,
  type CommandType,
  cadenceOf,
  clipsFor,
  commandSchema,
  describe as describeCommand,
  documentSchema,
  type FileSource,
  noTiming,
  type Project,
  plainClip,
  REFUSALS,
  type Source,
  type Timeline,
  tallyFrames,
  timelineLength,
} from '../index.js';

/** Laws that hold whatever a person does, in any order: walks of commands with all sorts of numbers, most of them possible. */

const RATES = [rate(24), rate(24000, 1001), rate(25), rate(30000, 1001), rate(50), rate(60), rate(17)];
const FITS = ['nearest', 'blend', 'motion', 'pictures', 'freeze'] as const;
const WAYS = ['along', 'pitch', 'own', 'off'] as const;

/** Two timelines, one carried from them at another rate, and that one placed in the first. */
const two = run(
  base,
  place(base, 'talk', 20),
  { type: 'duplicateTimeline', timelineId: 't', newId: 'u', name: 'Other' },
  { type: 'carryTimeline', timelineId: 'u', newId: 'v', name: 'Carried', rate: rate(30000, 1001) },
);
const start = run(two, {
  type: 'placeClips',
  timelineId: 't',
  clips: [
    { ...plainClip('v'), id: 'inner', laneId: 'p2', start: 700, length: 300 },
    { ...plainClip('talk'), id: 'short', laneId: 'p2', start: 1100, length: 20, inPicture: 60 },
  ],
});

/** Four numbers from 0 to 9999 say all that is chosen in a step. */
type Numbers = readonly [number, number, number, number];
type Step = (project: Project, numbers: Numbers, id: string) => CommandInput | null;

const pick = <T>(list: readonly T[], n: number): T | undefined => list[n % Math.max(1, list.length)];
/** Two moments that both recordings saw, in microseconds. */
const tiesFrom = (n: number): Tie[] => [
  { a: 200_000, b: 200_000 + (n % 500) * 1000 },
  { a: 1_200_000, b: 1_200_000 + (n % 700) * 1000 },
];
const copyOf = (project: Project, n: number): FileSource => fileBy(project, n) ?? (base.sources[0] as FileSource);
const timelineBy = (project: Project, n: number): Timeline | undefined => pick(project.timelines, n);
const fileBy = (project: Project, n: number): Project['sources'][number] | undefined => pick(project.sources, n);

/** A step on one clip of one timeline. */
const ofClip =
  (build: (timeline: Timeline, clip: Clip, numbers: Numbers, id: string) => CommandInput | null): Step =>
  (project, numbers, id) => {
    const timeline = timelineBy(project, numbers[0]);
    const clip = timeline && pick(timeline.clips, numbers[1]);
    return timeline && clip ? build(timeline, clip, numbers, id) : null;
  };

const ofTimeline =
  (build: (timeline: Timeline, numbers: Numbers, id: string) => CommandInput | null): Step =>
  (project, numbers, id) => {
    const timeline = timelineBy(project, numbers[0]);
    return timeline ? build(timeline, numbers, id) : null;
  };

const ofSource =
  (build: (source: Source, numbers: Numbers) => CommandInput | null): Step =>
  (project, numbers) => {
    const source = fileBy(project, numbers[0]);
    return source ? build(source, numbers) : null;
  };

/** Ways to do each kind of command; a new kind does not compile without one. */
const STEPS: Record<CommandType, readonly Step[]> = {
  readFields: [
    ofSource((source, [, b, c]) => {
      const to = source.fieldsRead?.stored.pictures ?? source.pictures;
      const cut = 1 + (c % to);
      const first = b % 2 === 0 ? ('top' as const) : ('bottom' as const);
      const runs = [
        { way: 'film' as const, from: 0, to: cut, first, beat: '2:3' as const, passed: c % 5 },
        ...(cut < to ? [{ way: 'one-a-field' as const, from: cut, to, first }] : []),
      ];
      const reading = b % 3 === 0 ? null : { mediaId: `${source.id}-${c}`, runs };
      return { type: 'readFields', readings: [{ sourceId: source.id, reading }] };
    }),
  ],
  moveClips: [
    ofClip(({ id }, clip, [, , c, d]) => ({
      type: 'moveClips',
      timelineId: id,
      clipIds: [clip.id],
      byFrames: (c % 600) - 300,
      byLanes: (d % 3) - 1,
    })),
  ],
  trimClip: [
    ofClip(({ id }, clip, [, , c, d]) => ({
      type: 'trimClip',
      timelineId: id,
      clipId: clip.id,
      start: Math.max(0, clip.start + (c % 80) - 40),
      end: Math.max(0, clip.start + clip.length + (d % 80) - 40),
    })),
  ],
  setFit: [
    ofClip(({ id }, clip, [, , c]) => ({ type: 'setFit', timelineId: id, clipIds: [clip.id], fit: pick(FITS, c) ?? 'blend' })),
  ],
  setShutter: [ofClip(({ id }, clip, [, , c]) => ({ type: 'setShutter', timelineId: id, clipIds: [clip.id], degrees: c % 361 }))],
  chooseFrames: [
    ofClip(({ id }, clip, [, , c, d]) => ({
      type: 'chooseFrames',
      timelineId: id,
      clipId: clip.id,
      frames: [c % clip.length, d % clip.length],
      as: pick(['nearest', 'blend', null] as const, c) ?? null,
    })),
  ],
  setSound: [
    ofClip(({ id }, clip, [, , c, d]) => ({
      type: 'setSound',
      timelineId: id,
      clipIds: [clip.id],
      way: pick([...WAYS, null], c) ?? null,
      level: (d % 85) - 60,
    })),
  ],
  slipClips: [
    ofClip(({ id }, clip, [, , c]) => ({
      type: 'slipClips',
      timelineId: id,
      clipIds: [clip.id],
      byPictures: (c % 120) - 60,
    })),
  ],
  splitClips: [
    ofTimeline(({ id }, [, , c], seed) => ({ type: 'splitClips', timelineId: id, clipIds: [], frame: c % 700, seed })),
  ],
  closeGaps: [
    ofTimeline(({ id, lanes }, [, b, c]) => ({
      type: 'closeGaps',
      timelineId: id,
      laneId: c % 2 ? null : (pick(lanes, b)?.id ?? null),
    })),
  ],
  linkClips: [
    ofClip(({ id, clips }, clip, [, , c, d], link) => ({
      type: 'linkClips',
      timelineId: id,
      clipIds: [clip.id, pick(clips, d)?.id ?? clip.id],
      link: c % 2 ? link : null,
    })),
  ],
  removeClips: [ofClip(({ id }, clip) => ({ type: 'removeClips', timelineId: id, clipIds: [clip.id] }))],
  unpackClip: [
    (project, [a, b], seed) => {
      const timeline = timelineBy(project, a);
      const nested = timeline?.clips.filter((c) => project.timelines.some((t) => t.id === c.sourceId));
      const clip = pick(nested ?? [], b);
      return timeline && clip ? { type: 'unpackClip', timelineId: timeline.id, clipId: clip.id, seed } : null;
    },
  ],
  readAt: [
    (project, [a, b, c, d]) => {
      const source = fileBy(project, a);
      if (!source) return null;
      const held = Array.from({ length: 1 + (d % 30) }, (_, i) => 3 + i * 5).filter((k) => k < source.pictures);
      const pictures = pick(['once', 'even', 'new', 'rebuilt'] as const, c) ?? 'once';
      const reading = { rate: pick(RATES, b) as Rate, pictures, from: 'typed' as const, sound: pick(WAYS, d) ?? 'along' };
      return {
        type: 'readAt',
        readings: [{ sourceId: source.id, reading: d % 4 === 0 ? null : { ...reading, ...(c % 4 > 1 ? { held } : {}) } }],
        uses: pick(['move', 'length', 'time'] as const, b + d) ?? 'move',
      };
    },
  ],
  rebuildSource: [
    (project, [a, , c]) => {
      const source = fileBy(project, a);
      const held = Array.from({ length: 1 + (c % 40) }, (_, i) => 2 + i * 3);
      return source ? { type: 'rebuildSource', sourceId: source.id, held } : null;
    },
  ],
  replaceSource: [
    (project, [a, b]) => {
      const [source, by] = [fileBy(project, a), fileBy(project, b)];
      return source && by ? { type: 'replaceSource', sourceId: source.id, byId: by.id } : null;
    },
  ],
  carryTimeline: [
    (project, [a, b], id) => {
      const timeline = timelineBy(project, a);
      if (!timeline || project.timelines.length > 5) return null;
      return { type: 'carryTimeline', timelineId: timeline.id, newId: id, name: 'Carried', rate: pick(RATES, b) as Rate };
    },
  ],
  setTimelineFormat: [
    ofTimeline(({ id }, [, b, c]) => ({
      type: 'setTimelineFormat',
      timelineId: id,
      rate: pick(RATES, b) as Rate,
      width: 320 + 2 * (c % 300),
      height: 240,
      ...(c % 3 === 0 ? {} : { fields: c % 3 === 1 ? ('bottom' as const) : null }),
    })),
  ],
  setRange: [
    ofTimeline(({ id }, [, b, c]) => ({
      type: 'setRange',
      timelineId: id,
      range: c % 4 ? { from: b % 300, to: (b % 300) + 1 + (c % 200) } : null,
    })),
  ],
  removeSources: [
    (project, [a, , c]) => {
      const source = fileBy(project, a);
      return source ? { type: 'removeSources', sourceIds: [source.id], withUses: c % 3 === 0 } : null;
    },
  ],
  removeTimeline: [ofTimeline(({ id }) => ({ type: 'removeTimeline', timelineId: id }))],
  renameProject: [(_, [, b]) => ({ type: 'renameProject', name: `Thaw ${b}` })],
  addSources: [(project, [a, b], id) => ({ type: 'addSources', sources: [{ ...copyOf(project, a), id: b % 9 ? id : 'twice' }] })],
  setClaim: [
    ofSource(({ id }, [, b, c]) => ({ type: 'setClaim', sourceIds: [id], claimed: c % 3 ? (pick(RATES, b) as Rate) : null })),
  ],
  markPicture: [
    ofSource(({ id }, [, b, c]) => ({ type: 'markPicture', sourceId: id, picture: b % 260, note: c % 4 ? `note ${c}` : null })),
  ],
  judgePicture: [
    ofSource(({ id }, [, b, c]) => ({
      type: 'judgePicture',
      sourceId: id,
      picture: b % 260,
      as: pick(['held', 'new', null] as const, c) ?? null,
    })),
  ],
  markFrames: [
    ofTimeline(({ id }, [, b, c, d]) => ({
      type: 'markFrames',
      marks: [{ timelineId: id, frame: b % 900, length: c % 3 ? 0 : c % 40, name: d % 4 ? `mark ${d}` : null }],
    })),
  ],
  renewSource: [
    ofSource(({ id, pictures }, [, b, c]) => {
      const now = [
        madeSource(id, rate(30), Math.max(2, pictures - (b % 30))),
        madeSequence(id, rate(12), 90),
        madeStill(id),
        madeSound(id, 5),
      ];
      return { type: 'renewSource', source: pick(now, c % 9 ? 0 : b) ?? madeStill(id) };
    }),
  ],
  addTimeline: [
    (project, [, b], id) =>
      project.timelines.length > 5
        ? null
        : {
            type: 'addTimeline',
            timeline: { id, name: 'New', rate: pick(RATES, b) as Rate, width: 640, height: 360, startFrame: 0, dropFrame: false },
          },
  ],
  renameTimeline: [ofTimeline(({ id }, [, b]) => ({ type: 'renameTimeline', timelineId: id, name: `Cut ${b}` }))],
  duplicateTimeline: [
    (project, [a], id) => {
      const timeline = timelineBy(project, a);
      if (!timeline || project.timelines.length > 5) return null;
      return { type: 'duplicateTimeline', timelineId: timeline.id, newId: id, name: 'Copy' };
    },
  ],
  setLanes: [
    ofTimeline(({ id, lanes }, [, b, c], lane) => ({
      type: 'setLanes',
      timelineId: id,
      lanes:
        c % 2
          ? [...lanes, { id: lane, kind: b % 2 ? 'picture' : 'sound', name: 'More', kept: null }]
          : lanes.filter((_, i) => i !== b % lanes.length),
    })),
  ],
  openEdit: [
    (project, [a], id) => {
      const timeline = timelineBy(project, a);
      if (!timeline || project.timelines.length > 5) return null;
      return { type: 'openEdit', file: 'thaw.otio', timelines: [{ ...timeline, id }], sources: [] };
    },
  ],
  switchClips: [
    ofClip(({ id }, clip, [, , c]) => ({ type: 'switchClips', timelineId: id, clipIds: [clip.id], off: c % 2 === 0 })),
  ],
  setDissolve: [
    ofClip(({ id }, clip, [, , c, d]) => ({
      type: 'setDissolve',
      timelineId: id,
      clipId: clip.id,
      before: c % 12,
      after: d % 12,
    })),
  ],
  setMix: [
    ofClip(({ id }, clip, [, , c]) => ({ type: 'setMix', timelineId: id, clipIds: [clip.id], mix: c % 2 ? 'light' : 'stored' })),
  ],
  setFraming: [
    ofClip(({ id }, clip, [, , c]) => ({
      type: 'setFraming',
      timelineId: id,
      clipIds: [clip.id],
      framing: pick(['inside', 'fill', 'as-is'] as const, c) ?? 'inside',
    })),
  ],
  setProjection: [
    (project, [a, b]) => {
      const source = fileBy(project, a);
      if (!source || source.kind === 'sound') return null;
      return {
        type: 'setProjection',
        sourceIds: [source.id],
        projection: pick(['flat', 'equirectangular', null] as const, b) ?? null,
      };
    },
  ],
  setPose: [
    ofClip(({ id }, clip, [, , c, d]) => ({
      type: 'setPose',
      timelineId: id,
      clipIds: [clip.id],
      pose:
        d % 4 === 0
          ? null
          : { x: (c % 9) / 10 - 0.4, scaleX: 0.5 + (c % 4) / 4, turn: (d % 9) * 45, crop: { left: (c % 3) / 4 } },
    })),
  ],
  setOpacity: [
    ofClip(({ id }, clip, [, , c]) => ({ type: 'setOpacity', timelineId: id, clipIds: [clip.id], opacity: (c % 5) / 4 })),
  ],
  setTies: [
    (project, [a, b, c, d]) => {
      const [one, other] = [fileBy(project, a), fileBy(project, b)];
      if (!one || !other) return null;
      return { type: 'setTies', aId: one.id, bId: other.id, ties: d % 5 ? tiesFrom(c) : [] };
    },
  ],
  placeAligned: [
    (project, [a, b, c, d], seed) => {
      const [timeline, one, other] = [timelineBy(project, d), fileBy(project, a), fileBy(project, b)];
      if (!timeline || !one || !other) return null;
      return { type: 'placeAligned', aId: one.id, bId: other.id, timelineId: timeline.id, ties: tiesFrom(c), seed };
    },
  ],
  placeClips: [
    (project, [a, b, c, d], id) => {
      const timeline = timelineBy(project, a);
      const source = fileBy(project, b);
      if (!timeline || !source) return null;
      let made = 0;
      const newId = (): string => `${id}-${made++}`;
      const fit = pick(FITS, c) ?? 'nearest';
      const clips = clipsFor({ timeline, source, fit, newId, ...(d % 2 ? { start: d % 900 } : {}) }, noTiming);
      return { type: 'placeClips', timelineId: timeline.id, clips };
    },
    (project, [a, b, c], id) => {
      const [timeline, inner] = [timelineBy(project, a), timelineBy(project, b)];
      if (!timeline || !inner) return null;
      const lane = timeline.lanes.find((l) => l.kind === 'picture');
      const length = Math.max(1, timelineLength(inner));
      const placed = { ...plainClip(inner.id), id, laneId: lane?.id ?? 'p1', start: 2000 + (c % 900), length };
      return { type: 'placeClips', timelineId: timeline.id, clips: [placed] };
    },
  ],
  retimeClip: [
    ofClip(({ id }, clip, [, , c, d]) => ({
      type: 'retimeClip',
      timelineId: id,
      clipId: clip.id,
      speed: { num: 1 + (c % 40), den: 1 + (d % 20) },
      follow: c % 2 ? 'move' : 'keep',
    })),
    ofClip(({ id }, clip, [, , c, d]) => ({
      type: 'retimeClip',
      timelineId: id,
      clipId: clip.id,
      pins:
        c % 5 === 0
          ? null
          : [
              { frame: clip.headTrim, picture: c % 60 },
              {
                frame: clip.headTrim + 20 + (d % 50),
                picture: d % 200,
                way: pick(['even', 'eased', 'held'] as const, c) ?? 'even',
              },
              { frame: clip.headTrim + 90 + (c % 50), picture: (c + d) % 240 },
            ],
      backward: d % 2 === 0,
      follow: d % 3 ? 'move' : 'keep',
    })),
  ],
};

/** What holds of any project; throws where it does not. */
function holds(project: Project): void {
  // A document is what its schema says, and comes back from a file as it went.
  expect(documentSchema.parse(JSON.parse(JSON.stringify(project)))).toEqual(JSON.parse(JSON.stringify(project)));
  const sources = new Map<string, number>(project.sources.map((s) => [s.id, s.pictures]));
  for (const t of project.timelines) sources.set(t.id, Math.max(1, timelineLength(t)));
  expect(sources.size).toBe(project.sources.length + project.timelines.length);
  for (const timeline of project.timelines) {
    expect(new Set(timeline.clips.map((c) => c.id)).size).toBe(timeline.clips.length);
    for (const lane of timeline.lanes) {
      const clips = timeline.clips.filter((c) => c.laneId === lane.id).sort((a, b) => a.start - b.start);
      for (const [i, clip] of clips.entries()) {
        const before = clips[i - 1];
        if (before) expect(clip.start).toBeGreaterThanOrEqual(before.start + before.length);
      }
    }
    for (const clip of timeline.clips) {
      expect(timeline.lanes.map((l) => l.id)).toContain(clip.laneId);
      const pictures = sources.get(clip.sourceId);
      expect(pictures).toBeDefined();
      const map = cadenceOf(project, timeline, clip, noTiming)?.map;
      expect(map?.pictures.length).toBe(clip.length);
      for (const picture of map?.pictures ?? [])
        if (picture < 0 || picture >= (pictures as number)) expect(picture).toBe('within');
    }
    const { frames, hitches, real, held, blended, made, black, missing } = tallyFrames(project, timeline, noTiming);
    expect(real + held + blended + made + black + missing).toBe(frames);
    expect(hitches).toEqual([...new Set(hitches)].sort((a, b) => a - b));
  }
}

const number = fc.nat(9999);
const ALL = Object.entries(STEPS).flatMap(([type, ways]) => ways.map((way) => ({ type: type as CommandType, way })));
const walks = fc.array(fc.tuple(fc.constantFrom(...ALL), fc.tuple(number, number, number, number)), {
  minLength: 6,
  maxLength: 25,
});

/** Takes one step and asks all that holds of it; null where there was nothing to do, or it was refused. */
function taken(project: Project, way: Step, numbers: Numbers, id: string) {
  const command = way(project, numbers, id);
  if (!command) return null;
  const parsed = commandSchema.parse(command);
  const before = JSON.stringify(project);
  const step = apply(project, parsed);
  expect(JSON.stringify(project)).toBe(before);
  if (!step.ok) {
    expect(REFUSALS).toContain(step.code);
    return null;
  }
  expect(describeCommand(parsed, project)).not.toBe('');
  holds(step.project);
  expect(applyDifference(project, step.difference.forward)).toEqual(step.project);
  expect(applyDifference(step.project, step.difference.backward)).toEqual(project);
  return step;
}

// Another walk each time; what failed is walked again with its number: THAWLINE_SEED=123 npm run unit -- walk.
const seed = Number(process.env.THAWLINE_SEED ?? Math.floor(Math.random() * 2 ** 31));

test(`whatever is done, in any order, holds and is taken back exactly (seed ${seed})`, () => {
  fc.assert(
    fc.property(walks, (walk) => {
      let project = start;
      const back = [];
      for (const [i, [{ way }, numbers]] of walk.entries()) {
        const step = taken(project, way, numbers, `w${i}`);
        if (!step) continue;
        back.push(step.difference.backward);
        project = step.project;
      }
      for (const difference of back.reverse()) project = applyDifference(project, difference);
      expect(project).toEqual(start);
    }),
    // Some walks lead to timelines of many thousand clips: what is walked in this time is enough for once.
    { numRuns: 40, seed, interruptAfterTimeLimit: 8_000 },
  );
});

// A walk that never does a thing would prove nothing of it.
test.each(ALL)('a walk can do $type', ({ way }) => {
  const tried = fc.sample(fc.tuple(number, number, number, number), { numRuns: 60, seed: 20 });
  expect(tried.some((numbers) => taken(start, way, numbers, 'w') !== null)).toBe(true);
});
