import { applyPatches, enablePatches, type Patch } from 'immer';
import { documentSchema } from './document.js';
import { documentToUnions, patchesToUnions } from './toUnions.js';

enablePatches();

const nothing = { stored: null, measured: null, seconds: null, numbers: null };
const base = {
  mediaId: 'm',
  codec: 'x',
  claimed: null,
  timecode: null,
  lost: null,
  pixelFormat: 'yuv420p',
  fields: 'progressive',
  variable: false,
};
const film = {
  ...base,
  id: 'pan',
  name: 'pan',
  kind: 'film',
  pictures: 100,
  width: 640,
  height: 360,
  sound: null,
  readAt: null,
  ...{ stored: { num: 25, den: 1 }, measured: { rate: { num: 25, den: 1 }, ppm: 0 }, seconds: 4, numbers: null },
};
const still = { ...film, ...nothing, id: 'still', name: 'still', kind: 'still', pictures: 1 };
const reading = { rate: { num: 24, den: 1 }, pictures: 'once', from: 'typed', sound: 'along' };
const drips = {
  ...still,
  id: 'drips',
  name: 'drips',
  kind: 'sequence',
  pictures: 48,
  readAt: reading,
  numbers: { first: 1, last: 48, missing: 0 },
};
const voice = {
  ...still,
  id: 'voice',
  name: 'voice',
  kind: 'sound',
  pictures: 2000,
  seconds: 2,
  width: 0,
  height: 0,
  pixelFormat: '',
  sound: { seconds: 2, sampleRate: 48_000, channels: 1, codec: 'pcm_s16le', startSeconds: 0 },
};
const clip = {
  id: 'c',
  sourceId: 'pan',
  laneId: 'p1',
  link: null,
  start: 0,
  length: 10,
  inPicture: 0,
  headTrim: 0,
  kept: null,
  ...{ fit: 'freeze', curve: [{ frame: 0, picture: 3 }], speed: { num: 1, den: 1 } },
  cut: { readAt: { ...reading, pictures: 'new' }, speed: { num: 1, den: 1 }, inPicture: 0, headTrim: 0, length: 10 },
};
const timeline = {
  ...{ id: 't', name: 'Cut', rate: { num: 25, den: 1 }, width: 640, height: 360, range: { from: 9, to: 9 }, kept: null },
  ...{ lanes: [{ id: 'p1', kind: 'picture', name: 'Picture 1', kept: null }], clips: [clip] },
};
const old = { name: 'Thaw', sources: [film, still, drips, voice], timelines: [timeline], alignments: [] };

test('a document of format 2 is read, and each source keeps what its kind has', () => {
  const { sources, timelines } = documentSchema.parse(documentToUnions(old));
  expect(sources.map((s) => [s.kind, 'stored' in s, 'seconds' in s, 'width' in s, 'numbers' in s])).toEqual([
    ['film', true, true, true, false],
    ['still', false, false, true, false],
    ['sequence', false, false, true, true],
    ['sound', false, true, false, false],
  ]);
  expect(sources[0]).toMatchObject({ stored: { num: 25, den: 1 }, seconds: 4 });
  expect(timelines[0]).toMatchObject({ range: null, clips: [{ fit: 'freeze', curve: null, cut: { readAt: { held: [] } } }] });
});

test('stored differences lead from one to the other, there and back', () => {
  const there: Patch[] = [
    { op: 'replace', path: ['sources', 0, 'kind'], value: 'still' },
    { op: 'replace', path: ['sources', 0, 'stored'], value: null },
    { op: 'replace', path: ['sources', 0, 'measured'], value: null },
    { op: 'replace', path: ['sources', 0, 'seconds'], value: null },
    { op: 'add', path: ['sources', 4], value: { ...still, id: 'more' } },
    { op: 'replace', path: ['sources', 2, 'readAt'], value: { ...reading, pictures: 'new' } },
    { op: 'replace', path: ['timelines', 0, 'range'], value: { from: 5, to: 3 } },
    { op: 'replace', path: ['timelines', 0, 'clips', 0, 'cut', 'readAt'], value: { ...reading, pictures: 'rebuilt' } },
  ];
  const back: Patch[] = [
    { op: 'replace', path: ['sources', 'length'], value: 4 },
    { op: 'replace', path: ['sources', 0, 'kind'], value: 'film' },
    { op: 'replace', path: ['sources', 0, 'stored'], value: film.stored },
    { op: 'replace', path: ['sources', 0, 'measured'], value: film.measured },
    { op: 'replace', path: ['sources', 0, 'seconds'], value: 4 },
  ];
  const before = documentToUnions(old) as object;
  const after = applyPatches(before, patchesToUnions(there)) as { sources: object[]; timelines: object[] };
  expect(documentSchema.parse(after).sources.map((s) => s.kind)).toEqual(['still', 'still', 'sequence', 'sound', 'still']);
  expect(after.sources[0]).not.toHaveProperty('stored');
  expect(after.sources[2]).toHaveProperty('readAt.held', []);
  expect(after.timelines[0]).toMatchObject({ range: null, clips: [{ cut: { readAt: { held: [] } } }] });
  const again = applyPatches(after, patchesToUnions(back)) as { sources: object[] };
  expect(again.sources[0]).toEqual((before as { sources: object[] }).sources[0]);
});
