import { formatTimecode, parseTimecode, rate } from './index.js';

const NTSC = rate(30000, 1001);

test('drop-frame jumps at the minute but not at the tenth', () => {
  expect(formatTimecode(1799, NTSC, { dropFrame: true })).toBe('00:00:59;29');
  expect(formatTimecode(1800, NTSC, { dropFrame: true })).toBe('00:01:00;02');
  expect(formatTimecode(17982, NTSC, { dropFrame: true })).toBe('00:10:00;00');
});

test.each([NTSC, rate(60000, 1001)])('drop-frame reads back what it prints, and goes up, through a whole day', (r) => {
  const day = formatDay(r);
  let wrong = 0;
  let last = '';
  // Every frame around every minute, where numbers are dropped, and a stride of a prime through the rest.
  const minute = Math.floor(day / 1440);
  for (let n = 0; n < day; n += n % minute < 12 || n % minute > minute - 12 ? 1 : 13) {
    const text = formatTimecode(n, r, { dropFrame: true });
    if (parseTimecode(text, r) !== n || text <= last) wrong++;
    last = text;
  }
  expect(wrong).toBe(0);
  expect(formatTimecode(day, r, { dropFrame: true })).toBe('24:00:00;00');
  expect(formatTimecode(day, r, { dropFrame: true, wrap: true })).toBe('00:00:00;00');
});

test('non-drop counts every frame, past 59 too', () => {
  expect(formatTimecode(119, rate(120))).toBe('00:00:00:119');
  expect(formatTimecode(25 * 3661 + 4, rate(25))).toBe('01:01:01:04');
  expect(parseTimecode('1:01:01:04', rate(25))).toBe(25 * 3661 + 4);
  expect(formatTimecode(-5, rate(25))).toBe('-00:00:00:05');
});

test('refuses what cannot be', () => {
  expect(parseTimecode('00:01:00;00', NTSC)).toBeNull();
  expect(parseTimecode('00:00:00:25', rate(25))).toBeNull();
  expect(parseTimecode('00:00:10;00', rate(25))).toBeNull();
  expect(parseTimecode('soon', rate(25))).toBeNull();
  expect(() => formatTimecode(0, rate(25), { dropFrame: true })).toThrow(RangeError);
});

/** Frames in 24 hours of drop-frame: 24 * 6 times ten minutes of 17982 (or twice that). */
function formatDay(r: { num: number }): number {
  return 144 * (r.num === 30000 ? 17982 : 35964);
}
