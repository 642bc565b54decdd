import type { CheckSummary } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { NO_FIELDS } from '@thawline/core/truth';
import type { Film, Project } from '@thawline/project';
import { madeSource, madeStill } from '@thawline/project/fixture';
import { groupKey, rateGroups, rateLabel } from '../../../shared/rates/rates.js';
import { exactTrue, readingsFor } from './readings.js';
import { linesOf, rowsOf, shownRows } from './sourceList.js';

const source = (id: string, more: Partial<Film> = {}): Film => ({ ...madeSource(id, rate(30), 300), ...more });

const sound = { seconds: 12, sampleRate: 48000, channels: 2, codec: 'aac', startSeconds: 0 };
const still = madeStill('still');
const talk = source('talk', { sound });
const plain = source('plain', { stored: rate(25) });
const phone = source('phone', { variable: true, measured: { rate: rate(2702, 100), ppm: 0 } });
const read = source('read', { readAt: { rate: rate(25), pictures: 'once', from: 'typed', sound: 'along' } });
const all = [still, talk, plain, phone, read];
const choice = { rate: rate(24), pictures: 'once', sound: 'along' } as const;
const check = (mediaId: string, storedRate: number, trueRate: number): CheckSummary => ({
  mediaId,
  jobId: 'j',
  decoded: 300,
  range: { from: 0, to: 300 },
  region: null,
  counter: null,
  verdict: {
    kind: 'padded',
    pictures: 300,
    storedRate,
    trueRate,
    held: [],
    jumps: [],
    unchanged: [],
    missing: [],
    cuts: [],
    faults: [],
    blends: [],
    shares: [],
    fields: NO_FIELDS,
    parts: [],
    passages: [],
    stretches: [],
    certainty: 1,
    made: [],
    holdCeiling: null,
  },
});

test('each origin gives the rates it has and says why it leaves the others alone', () => {
  expect(readingsFor({ ...choice, origin: 'typed' }, all, new Map()).readings).toHaveLength(4);
  expect(readingsFor({ ...choice, origin: 'sound' }, all, new Map())).toMatchObject({
    readings: [{ sourceId: 'talk', reading: { rate: rate(25), from: 'sound' } }],
    left: [{ why: 'a still has no rate' }, { why: 'it has no sound' }, { why: 'it has no sound' }, { why: 'it has no sound' }],
  });
  expect(readingsFor({ ...choice, origin: 'stored' }, [plain], new Map()).readings[0]?.reading?.rate).toEqual(rate(25));
  expect(readingsFor({ ...choice, origin: 'own' }, [read], new Map()).readings).toEqual([{ sourceId: 'read', reading: null }]);
  expect(readingsFor({ ...choice, origin: 'true' }, [plain], new Map()).left[0]?.why).toBe('it is not checked yet');
});

test('a true rate is an exact share of the measured one where it is simple', () => {
  expect(exactTrue(check('a', 25, 25 / 3), source('a', { measured: { rate: rate(25), ppm: 0 } }))).toEqual(rate(25, 3));
  expect(exactTrue(check('a', 30, 24), plain)).toEqual(rate(24));
  expect(exactTrue(check('a', 30, 27.6461), plain)).toEqual(rate(27646, 1000));
});

test('sources are grouped by the rate that counts, and one read otherwise says where it came from', () => {
  expect(rateGroups(all).map((g) => g.label)).toEqual(['30', '25 \u2190 30', '27.02 variable', 'stills']);
  expect([still, phone, read].map(rateLabel)).toEqual(['still', '27.02 variable', '25']);
});

test('what is shown follows rates and remarks, and groups come with their lines', () => {
  const project: Project = { name: 'x', sources: all, timelines: [], alignments: [] };
  const rows = rowsOf(project, new Map(), new Map());
  const list = { rates: [], remark: null, order: 'added', down: false, grouped: false } as const;
  expect(shownRows(rows, { ...list, remark: 'gap' }).map((r) => r.source.id)).toEqual(['talk']);
  expect(shownRows(rows, { ...list, rates: [groupKey(still), groupKey(phone)] }).map((r) => r.source.id)).toEqual([
    'still',
    'phone',
  ]);
  expect(linesOf(rows, true).map((l) => (l.kind === 'group' ? l.group.label : l.row.source.id))).toEqual([
    '30',
    'talk',
    'plain',
    '25 \u2190 30',
    'read',
    '27.02 variable',
    'phone',
    'stills',
    'still',
  ]);
});
