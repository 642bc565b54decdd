import { rate } from '@thawline/core/time';
import type { FieldFinding } from '@thawline/core/truth';
import { planOf, runsFor } from '@thawline/project';
import { film } from '../../../test/project.fixture.js';
import {
  filmRate,
  hasFields,
  kindWords,
  lengthWords,
  momentsWords,
  readingsOf,
  type StoredFields,
  sameRuns,
  weaveOf,
} from './fields.js';

const NTSC = rate(30000, 1001);
const stretch = (from: number, to: number, kind: FieldFinding['stretches'][number]['kind']) =>
  ({ from, to, kind, first: kind === 'none' ? null : 'top', flag: 'right', certainty: 0.99 }) as const;
const finding = (frames: number, kind: FieldFinding['kind'], more: Partial<FieldFinding> = {}): FieldFinding => ({
  kind,
  first: kind === 'none' ? null : 'top',
  flag: 'right',
  certainty: 0.99,
  stretches: [stretch(0, frames, kind === 'mixed' ? 'none' : kind)],
  breaks: [],
  film: kind === 'pulldown' ? [{ way: 'film', from: 0, to: frames, passed: 0, beat: '2:3', first: 'top' }] : [],
  ...more,
});
const stored = (frames: number, found: FieldFinding | null, more: Partial<StoredFields> = {}): StoredFields => ({
  mediaId: 'm',
  frames,
  rate: NTSC,
  even: true,
  flag: 'top',
  finding: found,
  ...more,
});
const readAs = (of: StoredFields, way: Parameters<typeof runsFor>[1]['way']) => runsFor(of, { way, order: 'measured' });

test('films of two fields a frame have an even number of lines, and thirty frames a second at most', () => {
  expect(hasFields(film('reel', { height: 576 }))).toBe(true);
  expect(hasFields(film('reel', { height: 575 }))).toBe(false);
  expect(hasFields(film('reel', { height: 576, measured: { rate: rate(50), ppm: 0 } }))).toBe(false);
  expect(hasFields(film('reel', { height: 576, lost: { url: null } }))).toBe(false);
});

test.each([
  [null, 'not measured yet', '\u2013'],
  [finding(60, 'none'), 'progressive', '29.97'],
  [finding(60, 'interlaced'), 'interlaced', '59.94'],
  [finding(60, 'pulldown'), 'film by 2:3', '23.976'],
  [finding(60, 'mixed'), 'two kinds of material', 'differs'],
] as const)('of what was found %# the kind and its moments a second are told', (found, kind, moments) => {
  expect(kindWords(found)).toBe(kind);
  expect(momentsWords(stored(60, found))).toBe(moments);
});

test('four pictures of film lie in five frames', () => {
  expect(filmRate(stored(60, finding(60, 'pulldown')))).toEqual(rate(24000, 1001));
});

describe('how long it is as read', () => {
  const reel = (frames: number) => stored(frames, finding(frames, 'pulldown'));

  test('a beat that comes out whole leaves it as long as it was', () => {
    expect(planOf(readAs(reel(60), 'film')).pictures).toBe(48);
    expect(lengthWords(reel(60), readAs(reel(60), 'film'))).toBe('same');
    expect(lengthWords(reel(60), readAs(reel(60), 'one-a-field'))).toBe('same');
  });

  test('one that is cut short has its last picture whole', () => {
    expect(lengthWords(reel(61), readAs(reel(61), 'film'))).toBe('61 \u2192 61.25 frames');
  });
});

test('readings are the same where each stretch is read alike', () => {
  const [a, b] = [
    readAs(stored(60, finding(60, 'pulldown')), 'film'),
    readAs(stored(60, finding(60, 'interlaced')), 'one-a-field'),
  ];
  expect(sameRuns(a, [...a])).toBe(true);
  expect(sameRuns(a, b)).toBe(false);
  expect(
    sameRuns(
      b,
      b.map((run) => ({ ...run, first: 'bottom' as const })),
    ),
  ).toBe(false);
  expect(sameRuns(a, [])).toBe(false);
});

describe('which halves of frames go into which picture', () => {
  const words = (way: Parameters<typeof runsFor>[1]['way'], from: number, to: number) =>
    weaveOf(readAs(stored(60, finding(60, 'pulldown')), way), from, to).map(
      ({ label, halves }) => `${label}: ${halves.map((h) => `${h.frame}${h.first ? 'a' : 'b'}`).join(' ')}`,
    );

  test('film takes two halves and three in turn', () => {
    expect(words('film', 0, 5)).toEqual(['F0: 0a 0b', 'F1: 1a 1b 2a', 'F2: 2b 3a', 'F3: 3b 4a 4b']);
  });

  test('one a field takes one each, one a frame both, and only frames that are asked for are drawn', () => {
    expect(words('one-a-field', 1, 2)).toEqual(['P2: 1a', 'P3: 1b']);
    expect(words('one-a-frame', 1, 3)).toEqual(['P1: 1a', 'P2: 2a']);
    expect(words('progressive', 4, 5)).toEqual(['P4: 4a 4b']);
  });
});

test('of several sources those that cannot be read so are named, with the reason', () => {
  const checks = new Map([
    ['media-reel', { verdict: { fields: finding(60, 'pulldown') } }],
    ['media-field', { verdict: { fields: finding(60, 'interlaced') } }],
  ]) as never;
  const sources = [
    film('reel', { height: 480, pictures: 60 }),
    film('field', { height: 480, pictures: 60 }),
    film('new', { height: 480 }),
    film('odd', { height: 481 }),
  ];
  const asked = (way: Parameters<typeof runsFor>[1]['way']) => {
    const { readings, left } = readingsOf(sources, checks, { way, order: 'measured' });
    return [readings.map((r) => r.source.name), left.map((l) => `${l.source.name} ${l.why}`)];
  };
  expect(asked('film')).toEqual([['reel'], ['field shows no film in its fields', 'new is not checked yet', 'odd has no fields']]);
  expect(asked('one-a-field')).toEqual([['reel', 'field', 'new'], ['odd has no fields']]);
});
