import { findSeries, kindOfName, passedOver } from './index.js';

const series = (...names: string[]) => findSeries(names, (n) => n);

test('numbered pictures of one folder are one series, in the order of their numbers', () => {
  const { series: found, rest } = series('drip_0012.png', 'notes.txt', 'drip_0010.png', 'drip_0011.png', 'ridge.png');
  expect(found).toEqual([
    { name: 'drip', ending: 'png', files: ['drip_0010.png', 'drip_0011.png', 'drip_0012.png'], first: 10, last: 12, missing: 0 },
  ]);
  expect(rest).toEqual(['notes.txt', 'ridge.png']);
});

test('unpadded numbers count on past a digit; padded ones keep to their length; missing numbers are counted', () => {
  const names = Array.from({ length: 12 }, (_, i) => `f${i + 1}.jpg`).filter((n) => n !== 'f5.jpg');
  expect(series(...names).series).toMatchObject([{ first: 1, last: 12, missing: 1, files: names }]);
  const two = series('a01.png', 'a02.png', 'a03.png', 'a001.png', 'a002.png', 'a003.png');
  expect(two.series.map((s) => s.files.length)).toEqual([3, 3]);
});

test('endings and stems keep series apart, and one or two numbers are no series', () => {
  expect(series('a1.png', 'a2.png', 'a3.tif', 'b4.png', '7.png').series).toEqual([]);
  expect(series('1.tif', '2.tif', '3.TIF').series).toMatchObject([{ name: 'pictures', ending: 'tif', first: 1, last: 3 }]);
});

test('what is no material is passed over with its reason', () => {
  expect(['a.txt', 'README', '.hidden.mp4', 'x.MOV', 'y.Tiff', 'z.xml'].map(passedOver)).toEqual([
    '.txt',
    'no ending',
    'hidden',
    null,
    null,
    '.xml',
  ]);
  expect(['a.mkv', 'a.jpeg', 'a.wav', 'a.txt'].map(kindOfName)).toEqual(['film', 'picture', 'sound', null]);
});
