import { FieldMeter } from './fieldMeter.js';
import { filmBeats } from './filmBeats.js';

const [WIDTH, LINES] = [64, 48];

/** What is seen at a moment, in a line of the whole picture. */
function light(x: number, y: number, moment: number): number {
  return 128 + 60 * Math.sin((x - 2.3 * moment) * 0.4 + y * 0.17) + 30 * Math.sin((x + y) * 0.9 - moment * 1.1);
}

/** A meter of frames whose fields show these moments, the first field's lines on top. */
function meterOf(frames: readonly (readonly [number, number])[]): FieldMeter {
  const meter = new FieldMeter(WIDTH, LINES, LINES);
  for (const [first, second] of frames) {
    const bytes = new Uint8Array(WIDTH * LINES * 2);
    for (let y = 0; y < 2 * LINES; y++)
      for (let x = 0; x < WIDTH; x++) bytes[y * WIDTH + x] = Math.round(light(x, y, y % 2 === 0 ? first : second));
    meter.push(bytes);
  }
  return meter;
}

/** Frames of film whose pictures take so many fields in turn. */
function spread(beat: readonly number[], frames: number, skipFields = 0): [number, number][] {
  const fields: number[] = [];
  for (let picture = 0; fields.length < 2 * frames + skipFields; picture++)
    for (let i = 0; i < (beat[picture % beat.length] as number); i++) fields.push(picture);
  return Array.from({ length: frames }, (_, n) => [
    fields[skipFields + 2 * n] as number,
    fields[skipFields + 2 * n + 1] as number,
  ]);
}
const LONG = [2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 3];

test.each([0, 1, 2, 3, 4])('film by 2:3 is found with the place of its beat: %d fields passed', (passed) => {
  const found = filmBeats(meterOf(spread([2, 3], 40, passed)), { first: 'top', from: 0, to: 40 });
  expect(found.beat).toBe('2:3');
  expect(found.runs).toEqual([{ from: 0, to: 40, passed, way: 'film', first: 'top', beat: '2:3' }]);
  expect(found.better).toBeGreaterThan(5);
});

test('24 in 25 by 2:12, and pictures that lie across frames', () => {
  expect(filmBeats(meterOf(spread(LONG, 75, 4)), { first: 'top', from: 0, to: 75 })).toMatchObject({
    ...{ beat: '2:12', runs: [{ from: 0, to: 75, passed: 4 }] },
  });
  expect(filmBeats(meterOf(spread([2], 30, 1)), { first: 'top', from: 0, to: 30, beats: ['2:2', '2:12'] })).toMatchObject({
    ...{ beat: '2:2', runs: [{ from: 0, to: 30, passed: 1 }] },
  });
});

test('a break lies at the frame where an edit was made', () => {
  const all = spread([2, 3], 80);
  const found = filmBeats(meterOf([...all.slice(0, 37), ...all.slice(39)]), { first: 'top', from: 0, to: 78, beats: ['2:3'] });
  expect(found.runs.map((run) => [run.from, run.to])).toEqual([
    [0, 37],
    [37, 78],
  ]);
});

test('where each field has its own moment no beat explains more than that', () => {
  const video = Array.from({ length: 40 }, (_, n): [number, number] => [2 * n, 2 * n + 1]);
  expect(filmBeats(meterOf(video), { first: 'top', from: 0, to: 40 }).better).toBeLessThan(0);
});
