import { colourReason, lightWords } from './pictureWords.js';

test('colours in words, with their reason', () => {
  expect(lightWords({ primaries: 'bt2020', transfer: 'smpte2084' })).toBe('BT.2020, PQ');
  expect(lightWords({ primaries: 'bt709', transfer: 'bt709' })).toBe('BT.709');
  expect(lightWords({ primaries: null, transfer: null })).toBe('what its sources are');
  const colour = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'limited' as const };
  expect(colourReason({ colour, reason: 'most', share: 0.7, converted: [] })).toBe('BT.709, as 70 % of its frames');
});
