import { rate } from '@thawline/core/time';
import { type Clip, emptyProject, type Film, noTiming, type Project, plainClip } from '@thawline/project';
import { madeSource } from '@thawline/project/fixture';
import { pressed, SHORTCUTS } from '../../shared/keys/shortcuts.js';
import { mismatches, ratesOf, suggestRate } from '../../shared/rates/rateMismatches.js';
import { clock, count, plural, verdictShort } from '../../shared/words.js';

function source(id: string, r: ReturnType<typeof rate>, seconds: number, sound: boolean, variable = false): Film {
  return { ...madeSource(id, r, Math.round((seconds * r.num) / r.den), sound), seconds, variable };
}

const clip = (id: string, start: number, length: number): Clip => ({ ...plainClip(id), id, laneId: 'p1', start, length });
const project: Project = {
  ...emptyProject('Test'),
  sources: [
    source('pan', rate(30000, 1001), 10, false),
    source('talk', rate(25), 4, true),
    source('phone', rate(1351, 50), 3, false, true),
  ],
  timelines: [
    {
      id: 't',
      name: 'Cut',
      rate: rate(25),
      width: 64,
      height: 36,
      startFrame: 0,
      dropFrame: false,
      range: null,
      marks: [],
      kept: null,
      lanes: [{ id: 'p1', kind: 'picture', name: 'Picture 1', kept: null }],
      clips: [clip('pan', 0, 250), clip('talk', 250, 100)],
    },
  ],
};

test('the rate chain names the clips that do not match, with their hitches', () => {
  const [timeline] = project.timelines;
  if (!timeline) throw new Error('no timeline');
  expect(mismatches(project, timeline, noTiming)).toMatchObject([{ name: 'pan', sourceRate: '29.97', hitches: 49 }]);
  expect(ratesOf(project)).toEqual(['29.97', '25', '27.02 variable']);
});

test('a suggested rate comes from what has sound, not from what is first or longest', () => {
  expect(suggestRate(project)?.rate).toEqual(rate(25));
  expect(suggestRate(emptyProject('None'))).toBeNull();
});

test('no two shortcuts of one view share their keys, and none shares those that count everywhere', () => {
  const all = Object.values(SHORTCUTS);
  for (const view of ['Sources', 'Timelines', 'Check']) {
    const keys = all.filter((s) => s.where === 'Everywhere' || s.where.split(', ').includes(view)).map((s) => s.keys);
    expect(keys.length).toBeGreaterThan(8);
    expect(new Set(keys).size).toBe(keys.length);
  }
});

test('a key press is told by its name in the table', () => {
  const key = (name: string, more = {}) => ({
    key: name,
    shiftKey: false,
    ctrlKey: false,
    metaKey: false,
    altKey: false,
    ...more,
  });
  expect(pressed(key('ArrowDown'), ['nextRow', 'chooseDown'])).toBe('nextRow');
  expect(pressed(key('ArrowDown', { shiftKey: true }), ['nextRow', 'chooseDown'])).toBe('chooseDown');
  expect(pressed(key('a', { ctrlKey: true }), ['chooseAll'])).toBe('chooseAll');
  expect(pressed(key(' '), ['choose'])).toBe('choose');
  expect(pressed(key('x'), ['choose', 'nextRow'])).toBeNull();
});

test('numbers and words', () => {
  expect([clock(0), clock(41.24), clock(372), clock(3723.96)]).toEqual(['0:00.0', '0:41.2', '6:12.0', '1:02:04.0']);
  expect(count(1234567)).toBe('1\u2009234\u2009567');
  expect(plural(1, 'hitch', 'hitches')).toBe('1 hitch');
  expect(verdictShort({ kind: 'new', stretches: [], held: [3, 9], jumps: [5], faults: [], made: [], parts: [] })).toBe(
    '2 held, 1 jump',
  );
});
