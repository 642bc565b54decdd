import { besideCuts, FAULT_KINDS, faultCertainty } from './faults.js';

test.each(FAULT_KINDS)('the clearer a %s picture is, the more certain; never as certain as can be', (kind) => {
  const said = [-1, 0, 0.5, 1, 2].map((margin) => faultCertainty(kind, margin));
  expect(said).toEqual([...said].sort((a, b) => a - b));
  expect([said[0], said[4]]).toEqual([said[1], said[3]]);
  expect(said[4]).toBeLessThan(1);
});

test('beside a cut a person had better look', () => {
  expect(besideCuts(0.97, 40, [])).toBe(0.97);
  expect(besideCuts(0.97, 40, [31, 49])).toBe(0.97);
  expect(besideCuts(0.97, 40, [48])).toBeLessThan(0.5);
  expect(besideCuts(0.97, 40, [32])).toBeLessThan(0.5);
});
