import type { Shape } from '../../picture/index.js';
import { cook, lakeOf, ones } from '../verdict/recipes.fixture.js';
import { judge } from '../verdict/verdict.js';
import { ChangeMeter } from './changeMeter.js';
import { beside } from './counter.js';

const counterOf = (sources: readonly number[], counter: boolean, freshNoise = 0): { held: number; part: Shape | null } => {
  const meter = new ChangeMeter(256, 144);
  const after = { ...(counter ? { counter } : {}), ...(freshNoise ? { freshNoise } : {}) };
  for (const picture of cook(ones(sources), lakeOf(1), 1.4, after)) meter.push(picture);
  const { held } = judge(meter.finish(), 25);
  return { held: held.length, part: meter.counter(held) };
};
const each3 = Array.from({ length: 90 }, (_, k) => Math.floor(k / 3));

test('a counter that runs over held pictures is found where it stands, and hides no hold', () => {
  const { held, part } = counterOf(each3, true);
  expect(held).toBe(60);
  // Near the lower edge, in the middle.
  expect(part?.y).toBeGreaterThan(0.7);
  expect(part?.width).toBeLessThan(0.5);
  expect((part?.x ?? 0) + (part?.width ?? 0) / 2).toBeGreaterThan(0.3);
});

test('there is none where there is none: held pictures, fresh noise over them, all new pictures', () => {
  expect(counterOf(each3, false).part).toBeNull();
  expect(counterOf(each3, false, 3).part).toBeNull();
  expect(
    counterOf(
      Array.from({ length: 60 }, (_, k) => k),
      true,
    ).part,
  ).toBeNull();
});

test('beside a part lies the largest that has nothing of it', () => {
  expect(beside({ x: 0.3, y: 0.85, width: 0.4, height: 0.1 })).toEqual({ x: 0, y: 0, width: 1, height: 0.85 });
  expect(beside({ x: 0, y: 0, width: 0.1, height: 0.9 })).toEqual({ x: 0.1, y: 0, width: 0.9, height: 1 });
  const below = beside({ x: 0, y: 0, width: 1, height: 0.125 });
  expect(below).toEqual({ x: 0, y: 0.125, width: 1, height: 0.875 });
});
