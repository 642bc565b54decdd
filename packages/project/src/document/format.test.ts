import { DOCUMENT_FORMAT, FORMAT_STEPS, type FormatStep, migrateDocument, migratePatches } from './format.js';

test('the steps lead to the format of today, one at a time', () => {
  expect(FORMAT_STEPS.map((s) => s.to)).toEqual(Array.from({ length: DOCUMENT_FORMAT - 1 }, (_, i) => i + 2));
});

test('a document and its differences take the steps after their own format, in order', () => {
  const step = (to: number): FormatStep => ({
    name: `step ${to}`,
    to,
    document: (document) => [...(document as number[]), to],
    patches: (patches) => [...patches, { op: 'add', path: ['steps'], value: to }],
  });
  const steps = [step(2), step(3), step(4)];
  expect(migrateDocument([], 1, steps)).toEqual([2, 3, 4]);
  expect(migrateDocument([], 3, steps)).toEqual([4]);
  expect(migrateDocument([], 4, steps)).toEqual([]);
  expect(migratePatches([], 2, steps).map((p) => p.value)).toEqual([3, 4]);
});
