import { runLengths } from './runLengths.js';

test('run lengths count how long pictures stay on screen', () => {
  expect(runLengths({ pictures: 7, held: [1, 2, 5] })).toEqual([0, 2, 1, 1]);
  // The last picture holds: it stays with the one before it.
  expect(runLengths({ pictures: 5, held: [4] })).toEqual([0, 3, 1]);
  expect(runLengths({ pictures: 5, held: [1, 2, 3, 4] })).toEqual([0, 0, 0, 0, 0, 1]);
  expect(runLengths({ pictures: 1, held: [] })).toEqual([0, 1]);
});
