import type { Colour } from '@thawline/core/picture';
import { type ColouredSource, colourOf } from './colour.js';

const colour = (primaries: string | null, transfer: string | null, matrix: string | null): Colour => ({
  primaries,
  transfer,
  matrix,
  range: 'limited',
});
const HD = colour('bt709', 'bt709', 'bt709');
const PQ = colour('bt2020', 'smpte2084', 'bt2020nc');
const HLG = colour('bt2020', 'arib-std-b67', 'bt2020nc');
const SD = colour('smpte170m', 'smpte170m', 'smpte170m');
const NONE = colour(null, null, null);

function source(name: string, said: Colour, frames: number, more: Partial<ColouredSource> = {}): ColouredSource {
  return { id: name, name, colour: said, frames, pixelFormat: 'yuv420p', height: 1080, ...more };
}

test('where all agree, tags and matrix stay as they are, high range too', () => {
  expect(colourOf([source('a', PQ, 10), source('b', PQ, 90)], 1080, undefined)).toEqual({
    colour: PQ,
    reason: 'agree',
    share: 1,
    converted: [],
  });
  // What says nothing is left as it is, not tagged with a guess.
  const silent = colourOf([source('a', NONE, 10), source('b', NONE, 1)], 1080, undefined);
  expect(silent.colour).toEqual({ primaries: null, transfer: null, matrix: 'bt709', range: 'limited' });
});

test('where they differ those count that fill most frames, never the first', () => {
  const { colour: found, reason, share, converted } = colourOf([source('dawn', PQ, 30), source('day', HD, 70)], 1080, undefined);
  expect(found).toEqual(HD);
  expect([reason, share]).toEqual(['most', 0.7]);
  expect(converted).toEqual([{ id: 'dawn', name: 'dawn', from: { primaries: 'bt2020', transfer: 'smpte2084' }, above: 'bent' }]);
  const high = colourOf([source('day', HD, 30), source('dawn', PQ, 70)], 1080, undefined);
  expect(high.colour).toEqual(PQ);
  expect(high.converted).toMatchObject([{ name: 'day', above: 'kept' }]);
});

test('of equal ones standard range counts, which every screen shows; whatever comes first', () => {
  for (const sources of [
    [source('dawn', HLG, 50), source('day', HD, 50)],
    [source('day', HD, 50), source('dawn', HLG, 50)],
  ])
    expect(colourOf(sources, 1080, undefined).colour).toEqual(HD);
});

test('what says nothing is plain: it stays among plain ones, and is converted into high range', () => {
  const plain = colourOf([source('day', HD, 60), source('old', NONE, 40)], 1080, undefined);
  expect(plain).toMatchObject({ reason: 'agree', converted: [] });
  const high = colourOf([source('dawn', PQ, 60), source('old', NONE, 40)], 1080, undefined);
  expect(high.converted).toEqual([{ id: 'old', name: 'old', from: { primaries: 'bt709', transfer: 'bt709' }, above: 'kept' }]);
});

test('what a person chose is that, whatever the sources are', () => {
  const found = colourOf([source('day', HD, 100), source('tape', SD, 20)], 1080, 'hlg');
  expect(found).toMatchObject({ reason: 'asked', share: 0, colour: { primaries: 'bt2020', transfer: 'arib-std-b67' } });
  expect(found.converted.map((c) => c.name)).toEqual(['day', 'tape']);
});

test('red, green and blue have no matrix to keep: the pictures beside them decide', () => {
  const still = source('still', NONE, 90, { pixelFormat: 'rgb24', height: 2000 });
  expect(colourOf([still, source('tape', SD, 10, { height: 480 })], 480, undefined).colour.matrix).toBe('smpte170m');
});

test('two sources of one name are two', () => {
  const { share, converted } = colourOf([source('a', HD, 60), { ...source('a', PQ, 40), id: 'b' }], 1080, undefined);
  expect([share, converted.map((c) => c.id)]).toEqual([0.6, ['b']]);
});
