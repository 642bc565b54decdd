import { Resampler } from '@thawline/core/sound';
import { rate, rateToNumber } from '@thawline/core/time';
import { type PairPlan, pairSound, pairs } from '@thawline/rig';
import { alignSounds, OUTLINE_RATE, Outliner, type Recording } from './index.js';

/** What one recorder heard, as aligning wants it. */
function recording(plan: PairPlan, side: 'a' | 'b'): Recording {
  const resampler = new Resampler(rate(plan[side].sampleRate, OUTLINE_RATE), 1, 0);
  const outliner = new Outliner();
  const blocks: Float32Array[] = [];
  for (const block of pairSound(plan, side)) {
    const out = resampler.push(block);
    outliner.push(out);
    blocks.push(out);
  }
  const samples = new Float32Array(blocks.reduce((sum, b) => sum + b.length, 0));
  let at = 0;
  for (const block of blocks) {
    samples.set(block, at);
    at += block.length;
  }
  return {
    outline: outliner.finish(),
    read: async (from, count) => Float32Array.from({ length: count }, (_, i) => samples[from + i] ?? 0),
  };
}

/** The rig's pairs, made short: what both hear lasts for some twenty seconds. Longer ones are the bench's (npm run bench -- align). */
const short = (seed: number, name: string): PairPlan => {
  const plan = pairs(seed).find((p) => p.name === name);
  if (!plan) throw new Error(name);
  return { ...plan, secondsA: 26, secondsB: 27, offsetSeconds: plan.offsetSeconds / 40 };
};
const aligned = (plan: PairPlan) => alignSounds(recording(plan, 'a'), recording(plan, 'b'));

test.each(['noisy-both', 'ntsc', 'claps-alone'])('%s: offset and drift come out of the sounds', async (name) => {
  const plan = short(31, name);
  const { solution, certainty, ties } = await aligned(plan);
  expect(certainty).toBeGreaterThan(0.9);
  expect(Math.abs((solution?.offsetSeconds ?? 99) - plan.offsetSeconds)).toBeLessThan(0.0005);
  // Twenty seconds cannot tell two millionths: a twentieth of a millisecond at both ends is five.
  expect(Math.abs((solution?.driftPpm ?? 9999) - (rateToNumber(plan.ratio) - 1) * 1e6)).toBeLessThan(6);
  expect(ties.map((t) => t.a)).toEqual(ties.map((t) => t.a).sort((p, q) => p - q));
});

test('claps at one end alone give the place, and no drift is claimed', async () => {
  const plan = short(32, 'claps-start');
  const { solution, certainty, ties } = await aligned(plan);
  expect(certainty).toBeGreaterThan(0.9);
  expect(solution?.drifts).toBe(false);
  const [tie] = ties;
  expect(Math.abs((tie?.b ?? 0) / 1e6 - plan.offsetSeconds - (rateToNumber(plan.ratio) * (tie?.a ?? 0)) / 1e6)).toBeLessThan(
    0.0005,
  );
});

test.each([['unrelated-claps', 34]])('%s sounds are refused', async (name, seed) => {
  expect((await aligned(short(seed, name))).certainty).toBeLessThan(0.5);
});
