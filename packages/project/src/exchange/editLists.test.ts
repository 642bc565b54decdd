import { positionAt } from '@thawline/core/cadence';
import { type Edit, readEdl, readOtio, writeEdl, writeOtio } from '@thawline/core/exchange';
import { type Rate, rate } from '@thawline/core/time';
import { madeSource, newId, run } from '../document/project.fixture.js';
import {
  apply,
  applyDifference,
  type Clip,
  emptyProject,
  type FileSource,
  type Film,
  flattened,
  fromEdit,
  mappingOf,
  noTiming,
  type Project,
  type Source,
  type Timeline,
  toEdit,
} from '../index.js';

/** Edit lists opened with sources of other rates, whose timecode begins anywhere. */
const FILM = rate(24000, 1001);
const source = (name: string, r: Rate, timecode: string | null, pictures = 20_000): Film => ({
  ...madeSource(name, r, pictures),
  timecode,
});
const event = (times: string, rest = '') =>
  `TITLE: VESSA\nFCM: NON-DROP FRAME\n001  BANK     V     C        ${times}\n${rest}* FROM CLIP NAME: bank\n`;

function opened(list: string, at: Rate, sources: readonly FileSource[]) {
  const { edits, troubles } = readEdl(list, at);
  expect(troubles).toEqual([]);
  return fromEdit(edits[0] as Edit, {
    sources,
    find: (media) => sources.find((s) => s.name === media.name) ?? null,
    newId,
  });
}
const only = (timelines: readonly Timeline[]): Clip => timelines.at(-1)?.clips[0] as Clip;
/** Pictures that the first frames of a clip show. */
const shown = (clip: Clip, of: Source, at: Rate, frames = [0, 1, 2]): number[] =>
  frames.map((n) => positionAt(mappingOf(clip, of, { rate: at }, noTiming), n).picture);

test.each([
  ['24 with 23.976 from 01:00:00:00', rate(24), FILM, '01:00:00:00', '01:00:02:00 01:00:04:00', 48],
  ['24 with 23.976 from 00:09:50:00', rate(24), FILM, '00:09:50:00', '00:10:00:00 00:10:02:00', 240],
  ['23.976 with 24 from 00:00:00:00', FILM, rate(24), '00:00:00:00', '00:08:20:00 00:08:22:00', 12_000],
  [
    '29.97 with drop-frame from 00:59:00;02',
    rate(30000, 1001),
    rate(30000, 1001),
    '00:59:00;02',
    '01:00:00:00 01:00:02:00',
    1798,
  ],
] as const)(
  'a list at %s: the labelled picture is there, and each frame shows the next',
  (_, list, own, start, times, picture) => {
    const bank = source('bank', own, start);
    const { timelines, troubles } = opened(event(`${times} 01:00:00:00 01:00:02:00`), list, [bank]);
    expect(troubles.map((t) => t.code).filter((code) => code !== 'label-unsure')).toEqual([]);
    const clip = only(timelines);
    expect(shown(clip, bank, list)).toEqual([picture, picture + 1, picture + 2]);
  },
);

test('a list is written with the labels of its sources, and comes back to the same pictures', () => {
  for (const [list, own, start] of [
    [rate(24), FILM, '01:00:00:00'],
    [rate(25), rate(50), '10:00:00:00'],
    [FILM, rate(24), '00:00:00:00'],
    [rate(30000, 1001), rate(60000, 1001), '01:00:00;00'],
  ] as const) {
    const bank = source('bank', own, start);
    const { timelines } = opened(
      event(`${start.replace(';', ':').slice(0, 6)}02:00 ${start.slice(0, 6)}04:00 01:00:00:00 01:00:02:00`),
      list,
      [bank],
    );
    const timeline = timelines[0] as Timeline;
    const project: Project = { ...emptyProject('Lists'), sources: [bank], timelines: [timeline] };
    const text = writeEdl(flattened(project, timeline, { known: noTiming, urlOf: () => null }));
    expect(text).not.toContain('M2');
    const again = opened(text, list, [bank]);
    expect(shown(only(again.timelines), bank, list)).toEqual(shown(only(timelines), bank, list));
    expect(text).toContain(`${start.slice(0, 6)}02${start[8]}00`);
  }
});

test('picture 0 of a file that begins at 01:00:00:00 is written as that', () => {
  const bank = source('bank', FILM, '01:00:00:00');
  const { timelines } = opened(event('01:00:00:00 01:00:02:00 01:00:00:00 01:00:02:00'), rate(24), [bank]);
  const project: Project = { ...emptyProject('Lists'), sources: [bank], timelines: [timelines[0] as Timeline] };
  const text = writeEdl(flattened(project, timelines[0] as Timeline, { known: noTiming, urlOf: () => null }));
  expect(text).toContain(' C        01:00:00:00 01:00:02:00 01:00:00:00 01:00:02:00');
});

describe('backward', () => {
  const bank = source('bank', rate(25), '01:00:00:00');
  const list = event('01:00:02:00 01:00:04:00 01:00:00:00 01:00:02:00', 'M2   BANK     -25.0                01:00:02:00\n');

  test('a list opens backward, from the end of its stretch', () => {
    const { timelines, troubles } = opened(list, rate(25), [bank]);
    expect(troubles).toEqual([]);
    expect(shown(only(timelines), bank, rate(25), [0, 1, 49])).toEqual([99, 98, 50]);
  });

  test('at half speed, and of another rate', () => {
    const slow = event('01:00:02:00 01:00:03:00 01:00:00:00 01:00:02:00', 'M2   BANK     -012.5               01:00:02:00\n');
    expect(shown(only(opened(slow, rate(25), [bank]).timelines), bank, rate(25), [0, 49])).toEqual([74, 50]);
    const fast = source('bank', rate(50), '01:00:00:00');
    const run = opened(
      event('01:00:02:00 01:00:04:00 01:00:00:00 01:00:02:00', 'M2   BANK     -50.0                01:00:02:00\n'),
      rate(25),
      [fast],
    );
    expect(shown(only(run.timelines), fast, rate(25), [0, 49])).toEqual([199, 100]);
  });

  test('comes back from a list and from OpenTimelineIO, also where another program wrote it', () => {
    const { timelines } = opened(list, rate(25), [bank]);
    const timeline = timelines[0] as Timeline;
    const project: Project = { ...emptyProject('Lists'), sources: [bank], timelines: [timeline] };
    const options = { known: noTiming, urlOf: () => null };
    const text = writeEdl(flattened(project, timeline, options));
    expect(text).toMatch(/M2 +BANK +-025\.0/);
    expect(shown(only(opened(text, rate(25), [bank]).timelines), bank, rate(25), [0, 1, 49])).toEqual([99, 98, 50]);
    const json = JSON.parse(writeOtio(toEdit(project, timeline, options)));
    const clip = json.tracks.children[0].children[0];
    expect(clip.effects[0]).toMatchObject({ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: -1 });
    delete clip.metadata.thawline;
    const { edits } = readOtio(JSON.stringify(json));
    const back = fromEdit(edits[0] as Edit, { sources: [bank], find: () => bank, newId });
    expect(shown(only(back.timelines), bank, rate(25), [0, 1, 49])).toEqual([99, 98, 50]);
  });
});

describe('sources that are still to be found', () => {
  const list = event('01:00:02:00 01:00:04:00 01:00:00:00 01:00:02:00');
  const place = (project: Project, text: string, at = rate(24)): Project => {
    const { timelines, lost } = opened(text, at, project.sources);
    return run(project, { type: 'openEdit', file: 'a.edl', sources: [...lost], timelines: [...timelines] });
  };

  test("found later, a list's labels are looked up in the file as it is", () => {
    const project = place(emptyProject('Lists'), list);
    const found = run(
      project,
      { type: 'addSources', sources: [source('the-bank', FILM, '01:00:00:00')] },
      {
        type: 'replaceSource',
        sourceId: project.sources[0]?.id ?? '',
        byId: 'the-bank',
      },
    );
    const clip = only(found.timelines);
    expect(shown(clip, found.sources[0] as FileSource, rate(24))).toEqual([48, 49, 50]);
  });

  test('a second edit that names the same file shares the stand-in, which becomes longer; one undo takes it back', () => {
    const first = place(emptyProject('Lists'), list);
    const longer = list.replace(
      '01:00:02:00 01:00:04:00 01:00:00:00 01:00:02:00',
      '01:00:02:00 01:00:09:00 01:00:00:00 01:00:07:00',
    );
    const { timelines, lost } = opened(longer, rate(24), first.sources);
    expect(lost.map((s) => s.id)).toEqual(first.sources.map((s) => s.id));
    const applied = apply(first, { type: 'openEdit', file: 'b.edl', sources: [...lost], timelines: [...timelines] });
    if (!applied.ok) throw new Error(applied.code);
    const { project, difference } = applied;
    expect(project.sources).toHaveLength(1);
    expect(project.sources[0]?.pictures).toBeGreaterThan(first.sources[0]?.pictures ?? 0);
    expect(project.timelines).toHaveLength(2);
    expect(applyDifference(project, difference.backward)).toEqual(first);
    expect(applyDifference(first, difference.forward)).toEqual(project);
  });
});
