import { soundGap } from '@thawline/core/time';
import type { Verdict } from '@thawline/core/truth';
import type { Probe } from '@thawline/media';

/** The shape that `probe --json` prints. */
export function probeJson(file: string, probe: Probe) {
  const { measured, stored, sound } = probe;
  const gap = sound && soundGap(probe.pictures, measured.rate, probe.seconds, sound.seconds);
  return {
    file,
    pictures: probe.pictures,
    stored: { num: stored.num, den: stored.den },
    measured: { num: measured.rate.num, den: measured.rate.den, ppm: round(measured.ppm, 2) },
    variable: probe.variable,
    seconds: round(probe.seconds, 6),
    width: probe.width,
    height: probe.height,
    codec: probe.codec,
    fields: probe.fields,
    sound: sound ? { seconds: round(sound.seconds, 6), sampleRate: sound.sampleRate, channels: sound.channels } : null,
    gap: gap && { ...gap, seconds: round(gap.seconds, 6) },
  };
}

/** The shape that `check --json` prints. */
export function checkJson(file: string, verdict: Verdict) {
  return {
    file,
    pictures: verdict.pictures,
    storedRate: round(verdict.storedRate, 6),
    trueRate: round(verdict.trueRate, 6),
    kind: verdict.kind,
    held: verdict.held,
    jumps: verdict.jumps,
    blends: verdict.blends,
    stretches: verdict.stretches.map((s) => ({ ...s, trueRate: s.trueRate === null ? null : round(s.trueRate, 6) })),
  };
}

function round(value: number, digits: number): number {
  return Number(value.toFixed(digits));
}
