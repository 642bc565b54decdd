import { foreseen, setApart, whyWords } from './whyWords.js';

const stretch = { from: 0, to: 20, pattern: 'every-2', trueRate: 12.5, certainty: 0.99, skips: null };
const nothing = { held: [], jumps: [], missing: [], cuts: [], faults: [], stretches: [{ ...stretch, pattern: 'new' }] };
/** Changes of pictures 1 to 19. */
const trace = (of: (k: number) => number) => ({ changes: Array.from({ length: 19 }, (_, i) => of(i + 1)), from: 0 });

test('a held picture is told by how little it changes, and by the beat it keeps', () => {
  const held = [1, 3, 5, 7, 9, 11, 13, 15, 17, 19];
  const found = { ...nothing, held, stretches: [stretch] };
  expect(
    whyWords(
      9,
      found,
      trace((k) => (k % 2 ? 0.02 : 4)),
    ),
  ).toBe(
    'From 8 to 9 the picture changes by 0.02; new ones here change by 4.0. Each picture here is stored 2 times, and this is one of those that repeat.',
  );
});

test('one that changes nearly as much as others is told to change by noise alone', () => {
  const found = { ...nothing, held: [9] };
  expect(
    whyWords(
      9,
      found,
      trace((k) => (k === 9 ? 4.4 : 5.1)),
    ),
  ).toBe(
    'From 8 to 9 nothing but noise changes (by 4.4; new ones here by 5.1). What moves before and after stands still: it repeats the one before.',
  );
});

test('outside of what was measured a hold is still one', () => {
  expect(
    whyWords(
      30,
      { ...nothing, held: [30] },
      trace(() => 4),
    ),
  ).toContain('From 29 to 30 nothing moves.');
});

test('jumps, cuts and faults say what they are, and a picture as others are says nothing', () => {
  const even = trace(() => 3);
  expect(whyWords(5, { ...nothing, jumps: [5], missing: [2] }, even)).toBe(
    'All that moves goes 3 times as far as the steps before and after foresee. 2 pictures are missing between 4 and 5.',
  );
  expect(whyWords(5, { ...nothing, cuts: [5] }, even)).toContain('Hardly anything of 4 is found again in 5.');
  expect(whyWords(5, { ...nothing, faults: [{ picture: 5, kind: 'black', certainty: 0.9 }] }, even)).toContain(
    'All of 5 is dark',
  );
  expect(whyWords(5, nothing, even)).toBeNull();
});

test('what is foreseen is the middle of the new pictures around, within the shot', () => {
  const changes = trace((k) => (k < 10 ? 2 : 6));
  const found = { ...nothing, cuts: [10], held: [8] };
  expect(foreseen(8, changes, setApart(found), new Set(found.cuts))).toBe(2);
  expect(foreseen(12, changes, setApart(found), new Set(found.cuts))).toBe(6);
});
