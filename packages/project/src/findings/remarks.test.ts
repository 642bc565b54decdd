import { rate } from '@thawline/core/time';
import { madeSource } from '../document/project.fixture.js';
import { remarksOf } from '../index.js';

const check = (kind: 'none' | 'interlaced', of: 'new' | 'still' = 'new') => ({
  kind: of,
  trueRate: 25,
  storedRate: 25,
  certainty: 0.99,
  held: [],
  jumps: [],
  stretches: [{ from: 0, to: 100, pattern: 'new', trueRate: 25, certainty: 0.99, skips: null }],
  fields: { kind, first: null },
});
const of = (fields: 'progressive' | 'top' | 'bottom') => ({ ...madeSource('reel', rate(25), 100), fields });
const told = (...args: Parameters<typeof remarksOf>) => remarksOf(...args).find((r) => r.code === 'interlaced')?.text;

test('what a check saw of the fields stands beside what the file says', () => {
  expect(told(of('progressive'), null)).toBeUndefined();
  expect(told(of('progressive'), check('none'))).toBeUndefined();
  expect(told(of('progressive'), check('interlaced'))).toBe('interlaced: two moments a picture; the file says progressive');
  expect(told(of('top'), null)).toBe('interlaced, top first');
  expect(told(of('top'), check('interlaced'))).toBe('interlaced, top first: two moments a picture');
  expect(told(of('bottom'), check('none'))).toBe('says interlaced, bottom first; no combs found');
  const measured = { ...check('interlaced'), fields: { kind: 'interlaced' as const, first: 'bottom' as const } };
  expect(told(of('top'), measured)).toBe('interlaced, bottom first: two moments a picture; the file says top first');
  // Where nothing moves no comb could be seen.
  expect(told(of('bottom'), check('none', 'still'))).toBe('interlaced, bottom first');
});

test('tracks of sound that are not heard are told', () => {
  const source = madeSource('reel', rate(25), 100);
  const sound = { seconds: 4, sampleRate: 48_000, channels: 1, codec: 'pcm_s24le', startSeconds: 0 };
  expect(remarksOf({ ...source, sound }, null)).toEqual([]);
  expect(remarksOf({ ...source, sound: { ...sound, others: 3 } }, null)).toEqual([
    { code: 'tracks', text: '4 sound tracks, the first is heard' },
  ]);
});
