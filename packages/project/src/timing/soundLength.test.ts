import { rate } from '@thawline/core/time';
import { base, madeSource, newId, run } from '../document/project.fixture.js';
import { type Clip, clipsFor, lengthAtSpeed, noTiming, type Project, type Source, soundSpan, type Timeline } from '../index.js';

/** Pictures of 4 s, and sound of 6. */
const talk: Source = {
  ...madeSource('warden', rate(25), 100, true),
  sound: { seconds: 6, sampleRate: 48_000, channels: 2, codec: 'aac', startSeconds: 0 },
};
const there = run(base, { type: 'addSources', sources: [talk] });
const timeline = (project: Project): Timeline => project.timelines[0] as Timeline;
const clipsOn = (project: Project, kind: 'picture' | 'sound'): Clip[] => {
  const lanes = new Set(
    timeline(project)
      .lanes.filter((l) => l.kind === kind)
      .map((l) => l.id),
  );
  return timeline(project).clips.filter((c) => lanes.has(c.laneId));
};
const placed = (only?: 'picture' | 'sound'): Project =>
  run(there, {
    type: 'placeClips',
    timelineId: 't',
    clips: clipsFor({ timeline: timeline(there), source: talk, fit: 'nearest', newId, only }, noTiming),
  });

test('sound is placed alone, and whole; pictures alone, too', () => {
  expect(clipsOn(placed('sound'), 'sound').map((c) => [c.length, c.link])).toEqual([[150, null]]);
  expect(clipsOn(placed('sound'), 'picture')).toEqual([]);
  expect(clipsOn(placed('picture'), 'picture').map((c) => [c.length, c.link])).toEqual([[100, null]]);
  expect(clipsOn(placed(), 'sound')[0]?.length).toBe(100);
});

test('sound is pulled out to where it ends, and its pictures stay as long as they are', () => {
  const both = placed();
  const sound = clipsOn(both, 'sound')[0] as Clip;
  const out = run(both, { type: 'trimClip', timelineId: 't', clipId: sound.id, start: 0, end: 150 });
  expect(clipsOn(out, 'sound')[0]?.length).toBe(150);
  expect(clipsOn(out, 'picture')[0]?.length).toBe(100);
  expect(() => run(both, { type: 'trimClip', timelineId: 't', clipId: sound.id, start: 0, end: 151 })).toThrow('past-source');
  const picture = clipsOn(both, 'picture')[0] as Clip;
  expect(() => run(both, { type: 'trimClip', timelineId: 't', clipId: picture.id, start: 0, end: 101 })).toThrow('past-source');
});

test('sound is retimed by itself: by speed or to a length, and its pictures stay', () => {
  const both = placed();
  const sound = clipsOn(both, 'sound')[0] as Clip;
  const retimed = (change: object): Project =>
    run(both, { type: 'retimeClip', timelineId: 't', clipId: sound.id, follow: 'move', alone: true, ...change } as never);
  const slow = retimed({ speed: rate(1, 2) });
  expect(clipsOn(slow, 'sound')[0]).toMatchObject({ length: 200, speed: rate(1, 2) });
  expect(clipsOn(slow, 'picture')[0]).toMatchObject({ length: 100, speed: rate(1) });
  const fitted = retimed({ speed: rate(100, 120), length: 120 });
  expect(clipsOn(fitted, 'sound')[0]?.length).toBe(120);
  expect(soundSpan(talk, clipsOn(fitted, 'sound')[0] as Clip, timeline(fitted), noTiming).to).toBeCloseTo(4, 6);
  const together = run(both, { type: 'retimeClip', timelineId: 't', clipId: sound.id, follow: 'move', speed: rate(1, 2) });
  expect(clipsOn(together, 'picture')[0]?.length).toBe(200);
});

test('read at another rate, sound beyond its pictures keeps what it sounded', () => {
  const out = placed('sound');
  const before = soundSpan(talk, clipsOn(out, 'sound')[0] as Clip, timeline(out), noTiming);
  for (const [sound, length] of [
    ['along', 156],
    ['own', 150],
  ] as const) {
    const read = run(out, {
      type: 'readAt',
      readings: [{ sourceId: 'warden', reading: { rate: rate(24), pictures: 'once', from: 'typed', sound } }],
      uses: 'move',
      except: [],
    });
    const clip = clipsOn(read, 'sound')[0] as Clip;
    const source = read.sources.find((s) => s.id === 'warden') as Source;
    expect(clip.length).toBe(length);
    expect(soundSpan(source, clip, timeline(read), noTiming).to).toBeCloseTo(before.to, 1);
    expect(lengthAtSpeed(source, clip, clip, timeline(read))).toBe(length);
  }
});
