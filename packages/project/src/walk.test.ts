import { type Rate, rate } from '@thawline/core/time';
import fc from 'fast-check';
import {
  apply,
  applyDifference,
  type Clip,
  type CommandInput,
  cadenceOf,
  clipsFor,
  commandSchema,
  describe as describeCommand,
  documentSchema,
  noTiming,
  type Project,
  plainClip,
  REFUSALS,
  type Timeline,
  tallyFrames,
  timelineLength,
} from './index.js';
import { base, place, run } from './project.fixture.js';

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
  clips: [{ ...plainClip('v'), id: 'inner', laneId: 'p2', start: 700, length: 300 }],
});

/** Four numbers from 0 to 9999 say all that is chosen in a step. */
type Numbers = readonly [number, number, number, number];
type Step = (project: Project, numbers: Numbers, id: string) => CommandInput | null;

const pick = <T>(list: readonly T[], n: number): T | undefined => list[n % Math.max(1, list.length)];
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

const STEPS: Record<string, Step> = {
  place: (project, [a, b, c, d], id) => {
    const timeline = timelineBy(project, a);
    const source = fileBy(project, b);
    if (!timeline || !source) return null;
    let made = 0;
    const newId = (): string => `${id}-${made++}`;
    const fit = pick(FITS, c) ?? 'nearest';
    const clips = clipsFor({ timeline, source, fit, newId, ...(d % 2 ? { start: d % 900 } : {}) }, noTiming);
    return { type: 'placeClips', timelineId: timeline.id, clips };
  },
  move: ofClip(({ id }, clip, [, , c, d]) => ({
    type: 'moveClips',
    timelineId: id,
    clipIds: [clip.id],
    byFrames: (c % 600) - 300,
    byLanes: (d % 3) - 1,
  })),
  trim: ofClip(({ id }, clip, [, , c, d]) => ({
    type: 'trimClip',
    timelineId: id,
    clipId: clip.id,
    start: Math.max(0, clip.start + (c % 80) - 40),
    end: Math.max(0, clip.start + clip.length + (d % 80) - 40),
  })),
  fit: ofClip(({ id }, clip, [, , c]) => ({ type: 'setFit', timelineId: id, clipIds: [clip.id], fit: pick(FITS, c) ?? 'blend' })),
  speed: ofClip(({ id }, clip, [, , c, d]) => ({
    type: 'retimeClip',
    timelineId: id,
    clipId: clip.id,
    speed: { num: 1 + (c % 40), den: 1 + (d % 20) },
    follow: c % 2 ? 'move' : 'keep',
  })),
  curve: ofClip(({ id }, clip, [, , c, d]) => ({
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
  shutter: ofClip(({ id }, clip, [, , c]) => ({ type: 'setShutter', timelineId: id, clipIds: [clip.id], degrees: c % 361 })),
  choose: ofClip(({ id }, clip, [, , c, d]) => ({
    type: 'chooseFrames',
    timelineId: id,
    clipId: clip.id,
    frames: [c % clip.length, d % clip.length],
    as: pick(['nearest', 'blend', null] as const, c) ?? null,
  })),
  sound: ofClip(({ id }, clip, [, , c, d]) => ({
    type: 'setSound',
    timelineId: id,
    clipIds: [clip.id],
    way: pick([...WAYS, null], c) ?? null,
    level: (d % 85) - 60,
  })),
  slip: ofClip(({ id }, clip, [, , c]) => ({
    type: 'slipClips',
    timelineId: id,
    clipIds: [clip.id],
    byPictures: (c % 120) - 60,
  })),
  split: ofTimeline(({ id }, [, , c], seed) => ({ type: 'splitClips', timelineId: id, clipIds: [], frame: c % 700, seed })),
  close: ofTimeline(({ id, lanes }, [, b, c]) => ({
    type: 'closeGaps',
    timelineId: id,
    laneId: c % 2 ? null : (pick(lanes, b)?.id ?? null),
  })),
  link: ofClip(({ id, clips }, clip, [, , c, d], link) => ({
    type: 'linkClips',
    timelineId: id,
    clipIds: [clip.id, pick(clips, d)?.id ?? clip.id],
    link: c % 2 ? link : null,
  })),
  remove: ofClip(({ id }, clip) => ({ type: 'removeClips', timelineId: id, clipIds: [clip.id] })),
  nest: (project, [a, b, c], id) => {
    const [timeline, inner] = [timelineBy(project, a), timelineBy(project, b)];
    if (!timeline || !inner) return null;
    const lane = timeline.lanes.find((l) => l.kind === 'picture');
    const length = Math.max(1, timelineLength(inner));
    const placed = { ...plainClip(inner.id), id, laneId: lane?.id ?? 'p1', start: 2000 + (c % 900), length };
    return { type: 'placeClips', timelineId: timeline.id, clips: [placed] };
  },
  unpack: (project, [a, b], seed) => {
    const timeline = timelineBy(project, a);
    const nested = timeline?.clips.filter((c) => project.timelines.some((t) => t.id === c.sourceId));
    const clip = pick(nested ?? [], b);
    return timeline && clip ? { type: 'unpackClip', timelineId: timeline.id, clipId: clip.id, seed } : null;
  },
  read: (project, [a, b, c, d]) => {
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
  rebuild: (project, [a, , c]) => {
    const source = fileBy(project, a);
    const held = Array.from({ length: 1 + (c % 40) }, (_, i) => 2 + i * 3);
    return source ? { type: 'rebuildSource', sourceId: source.id, held } : null;
  },
  replace: (project, [a, b]) => {
    const [source, by] = [fileBy(project, a), fileBy(project, b)];
    return source && by ? { type: 'replaceSource', sourceId: source.id, byId: by.id } : null;
  },
  carry: (project, [a, b], id) => {
    const timeline = timelineBy(project, a);
    if (!timeline || project.timelines.length > 5) return null;
    return { type: 'carryTimeline', timelineId: timeline.id, newId: id, name: 'Carried', rate: pick(RATES, b) as Rate };
  },
  format: ofTimeline(({ id }, [, b, c]) => ({
    type: 'setTimelineFormat',
    timelineId: id,
    rate: pick(RATES, b) as Rate,
    width: 320 + 2 * (c % 300),
    height: 240,
  })),
  range: ofTimeline(({ id }, [, b, c]) => ({
    type: 'setRange',
    timelineId: id,
    range: c % 4 ? { from: b % 300, to: (b % 300) + 1 + (c % 200) } : null,
  })),
  gone: (project, [a, , c]) => {
    const source = fileBy(project, a);
    return source ? { type: 'removeSources', sourceIds: [source.id], withUses: c % 3 === 0 } : null;
  },
  drop: ofTimeline(({ id }) => ({ type: 'removeTimeline', timelineId: id })),
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
const walks = fc.array(fc.tuple(fc.constantFrom(...Object.keys(STEPS)), fc.tuple(number, number, number, number)), {
  minLength: 6,
  maxLength: 25,
});

test('whatever is done, in any order: clips stand apart and within their sources, and every step is taken back exactly', () => {
  const applied = new Set<string>();
  fc.assert(
    fc.property(walks, (walk) => {
      let project = start;
      const back = [];
      for (const [i, [kind, numbers]] of walk.entries()) {
        const command = (STEPS[kind] as Step)(project, numbers, `w${i}`);
        if (!command) continue;
        const parsed = commandSchema.parse(command);
        const before = JSON.stringify(project);
        const step = apply(project, parsed);
        expect(JSON.stringify(project)).toBe(before);
        if (!step.ok) {
          expect(REFUSALS).toContain(step.code);
          continue;
        }
        applied.add(kind);
        expect(describeCommand(parsed, project)).not.toBe('');
        holds(step.project);
        expect(applyDifference(project, step.difference.forward)).toEqual(step.project);
        back.push(step.difference.backward);
        project = step.project;
      }
      for (const difference of back.reverse()) project = applyDifference(project, difference);
      expect(project).toEqual(start);
    }),
    { numRuns: 40, seed: 20 },
  );
  // A walk that never does a thing would prove nothing of it.
  expect([...applied].sort()).toEqual(Object.keys(STEPS).sort());
});
