/**
 * npm run bench -- threads: how much faster two threads make pictures than one. The engine's threads alone: pictures of 1280x720 that
 * stand in memory, nothing decoded and nothing written, a picture between each two, whole rounds in turn, medians of seven.
 */

import { pixelLayout } from '../packages/core/dist/picture/index.js';
import { MotionPool } from '../packages/work/dist/motion/pool.js';
import { scenes } from './moving.mjs';

const ROUNDS = 7;
const PAIRS = 40;
const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
const [{ width, height, reals }] = scenes(103, '720p', 'hand-held');
const data = { layout: pixelLayout('yuv420p'), width, height };
const entry = new URL('../packages/work/dist/motion/worker.js', import.meta.url);

/** Seconds for all pictures; as many are on their way as keep every thread busy. */
async function seconds(pool) {
  const began = performance.now();
  const waiting = new Set();
  for (let k = 0; k < PAIRS; k++) {
    const [a, b] = [k, k + 1].map((i) => ({ k: i, picture: reals[i % reals.length] }));
    const one = pool.make(a, b, 0.5).then(() => waiting.delete(one));
    waiting.add(one);
    if (waiting.size >= 2 * pool.count) await Promise.race(waiting);
  }
  await Promise.all(waiting);
  return (performance.now() - began) / 1000;
}

const pools = [1, 2].map((count) => new MotionPool({ count, entry }, data));
const taken = [[], []];
// What compiling costs is not counted.
for (const pool of pools) await seconds(pool);
for (let round = 0; round < ROUNDS; round++) for (const i of [0, 1]) taken[i].push(await seconds(pools[i]));
await Promise.all(pools.map((pool) => pool.close()));
const ratios = taken[0].map((one, i) => one / taken[1][i]).map((r) => r.toFixed(2));
process.stdout.write(
  `${PAIRS} pictures of ${width}x${height}: ${median(taken[0]).toFixed(2)} s in one thread, ${median(taken[1]).toFixed(2)} s in two\n`,
);
process.stdout.write(`two threads are ${median(ratios)} times as fast as one (${ratios.join(', ')}; at least 1.8)\n`);
