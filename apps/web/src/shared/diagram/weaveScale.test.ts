import { weaveScale } from './weaveScale.js';

const pictures = Array.from({ length: 100 }, (_, k) => k);
const twice = Array.from({ length: 100 }, (_, k) => 2 * k);
const asked = { width: 820, zoom: 35, pictures, at: 50, strip: true, aspect: 16 / 9, screen: false };

test('as many frames as fit stand around the playhead, and none beyond the ends', () => {
  const middle = weaveScale(asked);
  expect(middle).toMatchObject({ unit: 35, shown: 20, from: 40, numbered: true, strip: null });
  expect(weaveScale({ ...asked, at: 3 })?.from).toBe(0);
  expect(weaveScale({ ...asked, at: 99 })?.from).toBe(80);
  expect(middle?.x(40)).toBe(108 + 17.5);
});

test('where more pictures pass than frames, frames are wider, so that their pictures have room', () => {
  const dense = weaveScale({ ...asked, pictures: twice });
  expect(dense?.unit).toBe(66);
  expect(dense?.pictureWidth).toBeCloseTo((66 / 2) * 0.86, 9);
});

test('close there is a film strip, as high as its pictures are in shape, where there are pictures', () => {
  expect(weaveScale({ ...asked, zoom: 100 })?.strip).toEqual({ width: 94, height: 94 / (16 / 9) });
  expect(weaveScale({ ...asked, zoom: 100, strip: false })?.strip).toBeNull();
  expect(weaveScale({ ...asked, zoom: 1000 })?.unit).toBe(220);
});

test('from far away a short clip is still drawn, and a long one is a painting', () => {
  expect(weaveScale({ ...asked, zoom: 0, pictures: pictures.slice(0, 20) })).toMatchObject({ unit: 35, from: 0 });
  expect(weaveScale({ ...asked, zoom: 0 })).toBeNull();
  expect(weaveScale({ ...asked, width: 0 })?.shown).toBe(3);
});

test('a screen beneath takes a row', () => {
  expect((weaveScale({ ...asked, screen: true })?.height ?? 0) - (weaveScale(asked)?.height ?? 0)).toBe(26);
});
