import { nominalRate, type Rate, rate } from '../time/index.js';
import { countingOf, labelledRun, labelOfPicture, labelsOf, type SourceLabels } from './index.js';

const NTSC = { film: rate(24000, 1001), video: rate(30000, 1001), double: rate(60000, 1001) };
const labels = (from: string, to: string, speed: number | null = null): SourceLabels => ({ from, to, speed });

describe('worked examples', () => {
  test('01:00:02:00 on a file at 23.976 that begins at 01:00:00:00 is its picture 48, whatever the list counts in', () => {
    for (const list of [rate(24), NTSC.film, rate(25), rate(30), rate(60)])
      expect(
        labelledRun(labels('01:00:02:00', '01:00:04:00'), {
          list,
          length: 2 * nominalRate(list),
          source: { rate: NTSC.film, start: '01:00:00:00' },
        }),
      ).toMatchObject({
        picture: 48,
        sure: 'certain',
      });
  });

  test('00:10:00:00 is picture 240 of what begins at 00:09:50:00, not 239', () => {
    expect(
      labelledRun(labels('00:10:00:00', '00:10:02:00'), {
        list: rate(24),
        length: 48,
        source: { rate: NTSC.film, start: '00:09:50:00' },
      })?.picture,
    ).toBe(240);
  });

  test('a source at 24 in a list at 23.976, at 00:08:20:00: its picture 12000', () => {
    const run = labelledRun(labels('00:08:20:00', '00:08:22:00'), {
      list: NTSC.film,
      length: 48,
      source: { rate: rate(24), start: null },
    });
    expect(run).toEqual({ picture: 12_000, perFrame: rate(1), backward: false, sure: 'certain', apart: null });
  });

  test('picture 0 of a file that begins at 01:00:00:00 is called that', () => {
    expect(labelOfPicture(0, { rate: NTSC.film, start: '01:00:00:00' })).toBe('01:00:00:00');
    expect(labelOfPicture(1800, { rate: NTSC.video, start: '00:00:00;00' })).toBe('00:01:00;02');
    expect(labelOfPicture(1800, { rate: NTSC.video, start: '00:00:00:00' })).toBe('00:01:00:00');
  });
});

/** Each kind of list and of source; drop-frame by how the source's own timecode begins. */
const KINDS: readonly (readonly [name: string, rate: Rate, start: string])[] = [
  ['24', rate(24), '01:00:00:00'],
  ['25', rate(25), '01:00:00:00'],
  ['23.976', NTSC.film, '01:00:00:00'],
  ['29.97 drop', NTSC.video, '01:00:00;00'],
  ['29.97', NTSC.video, '01:00:00:00'],
  ['30', rate(30), '01:00:00:00'],
  ['50', rate(50), '01:00:00:00'],
  ['59.94 drop', NTSC.double, '01:00:00;00'],
  ['59.94', NTSC.double, '01:00:00:00'],
  ['60', rate(60), '01:00:00:00'],
];
const pairs = KINDS.flatMap((list) => KINDS.map((source) => [list[0], source[0], list[1], source[1], source[2]] as const));

describe('all pairs of list and source', () => {
  test.each(pairs)('a list at %s with a source at %s: pictures come back as they went out', (_l, _s, list, own, start) => {
    const source = { rate: own, start };
    for (const picture of [0, 1, 7, 48, 1799, 1800, 17_982, 90_001])
      for (const length of [1, 12, 100, 3001]) {
        const perFrame = { num: nominalRate(own), den: nominalRate(list) };
        const written = labelsOf({ picture, perFrame: rate(perFrame.num, perFrame.den), backward: false }, list, length, source);
        expect(written.speed).toBeNull();
        const run = labelledRun(written, { list, length, source });
        expect(run).toMatchObject({ picture, perFrame: rate(perFrame.num, perFrame.den), backward: false, apart: null });
      }
  });

  test.each(pairs)('at %s with %s: speeds, backward ones too', (_l, _s, list, own, start) => {
    const source = { rate: own, start };
    for (const per of [rate(1, 2), rate(1, 4), rate(2), rate(1001, 1000), rate(25, 24)])
      for (const backward of [false, true]) {
        const written = labelsOf({ picture: 500, perFrame: per, backward }, list, 200, source);
        const told: SourceLabels = { ...written, speed: written.speed === null ? null : Number(written.speed.toFixed(1)) };
        const run = labelledRun(told, { list, length: 200, source });
        expect(run).toMatchObject({ picture: 500, backward });
        // To the picture at the end of the stretch.
        const apart = ((run?.perFrame?.num ?? 0) / (run?.perFrame?.den ?? 1) - per.num / per.den) * 200;
        expect(Math.abs(apart)).toBeLessThanOrEqual(1);
      }
  });

  test.each(pairs)('at %s with %s: a freeze stands on its picture', (_l, _s, list, own, start) => {
    const source = { rate: own, start };
    const written = labelsOf({ picture: 33, perFrame: null, backward: false }, list, 50, source);
    expect(written.speed).toBe(0);
    expect(labelledRun(written, { list, length: 50, source })).toMatchObject({ picture: 33, perFrame: null });
  });
});

describe('where list and source count another number of frames a second', () => {
  const source = { rate: rate(50), start: '01:00:00:00' };

  test("lengths tell whether frames are the source's or the list's", () => {
    // 62 frames of a list at 25 are 124 pictures of 50.
    expect(labelledRun(labels('01:00:00:12', '01:00:02:36'), { list: rate(25), length: 62, source })).toMatchObject({
      picture: 12,
      sure: 'likely',
    });
    expect(labelledRun(labels('01:00:00:12', '01:00:02:24'), { list: rate(25), length: 62, source })).toMatchObject({
      picture: 24,
      sure: 'likely',
    });
  });

  test("a number of frames that only one of them has is that one's", () => {
    expect(
      labelledRun(labels('00:00:01:40', '00:00:03:40'), { list: rate(50), length: 100, source: { rate: rate(25), start: null } }),
    ).toMatchObject({
      picture: 45,
      perFrame: rate(1, 2),
    });
    expect(labelledRun(labels('00:00:01:55', '00:00:03:40'), { list: rate(25), length: 50, source })).toBeNull();
  });

  test('what one event tells holds for the others of its source', () => {
    const vague = { labels: labels('01:00:00:12', '01:00:02:12'), length: 50 };
    const clear = { labels: labels('01:00:00:12', '01:00:02:24'), length: 62 };
    expect(labelledRun(vague.labels, { list: rate(25), length: 50, source })).toMatchObject({ picture: 12, sure: 'unsure' });
    expect(countingOf([vague, clear], rate(25), source)).toBe('list');
    expect(labelledRun(vague.labels, { list: rate(25), length: 50, source, hint: 'list' })).toMatchObject({
      picture: 24,
      sure: 'likely',
    });
  });

  test('where nothing speaks for one of them, it is said', () => {
    expect(labelledRun(labels('01:00:00:12', '01:00:01:07'), { list: rate(25), length: 80, source })?.sure).toBe('unsure');
  });
});

test('source and record that are not as long tell by how many pictures', () => {
  expect(
    labelledRun(labels('00:00:00:00', '00:00:04:00'), { list: rate(25), length: 50, source: { rate: rate(25), start: null } }),
  ).toMatchObject({
    perFrame: rate(1),
    apart: 100,
  });
});

test('a list that counts all frames of what drops some: near, and not certain', () => {
  const run = labelledRun(labels('00:01:00:00', '00:01:02:00'), {
    list: NTSC.video,
    length: 60,
    source: { rate: NTSC.video, start: '00:00:00;00' },
  });
  expect(run?.sure).toBe('unsure');
});
