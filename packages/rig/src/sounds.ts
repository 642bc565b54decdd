import { normal, random } from './random.js';

/** Mono sound of a place as a function of the sample, so that any stretch can be made on its own. Range -1 to 1. */
export type Sound = Float32Array;

/** A voice's loudness, 0 to 1, over seconds: syllables of uneven length with pauses. */
export function syllables(seed: number, seconds: number): (at: number) => number {
  const next = random(seed);
  const parts: { from: number; to: number; peak: number }[] = [];
  let at = 1.8;
  while (at < seconds) {
    const words = 3 + Math.floor(next() * 9);
    for (let i = 0; i < words; i++) {
      const length = 0.11 + 0.16 * next();
      parts.push({ from: at, to: at + length, peak: 0.5 + 0.5 * next() });
      at += length * 1.05;
    }
    at += 0.25 + 0.7 * next();
  }
  return (t) => {
    for (const part of parts) {
      if (t >= part.from && t < part.to) return part.peak * Math.sin((Math.PI * (t - part.from)) / (part.to - part.from));
    }
    return 0;
  };
}

/** A voice-like sound with a sharp clap at one moment. The clap's first sample is floor(clapSeconds * sampleRate). */
export function voiceWithClap(
  seed: number,
  {
    loudness,
    clapSeconds,
    seconds,
    sampleRate,
  }: {
    readonly loudness: (at: number) => number;
    readonly clapSeconds: number;
    readonly seconds: number;
    readonly sampleRate: number;
  },
): Sound {
  const next = random(seed);
  const out = new Float32Array(Math.round(seconds * sampleRate));
  const clap = Math.floor(clapSeconds * sampleRate);
  let breath = 0;
  for (let n = 0; n < out.length; n++) {
    const t = n / sampleRate;
    const level = loudness(t);
    const pitch = 118 + 14 * Math.sin(t * 2.1);
    let value = 0;
    for (let h = 1; h <= 9; h++) value += (Math.sin(2 * Math.PI * pitch * h * t) * formant(pitch * h)) / h;
    breath = breath * 0.9 + normal(next) * 0.1;
    value = level * (0.3 * value + 0.25 * breath) + 0.002 * normal(next);
    if (n >= clap) {
      const since = (n - clap) / sampleRate;
      if (since < 0.25) value += 0.9 * Math.exp(-since * 60) * (n === clap ? 1 : normal(next) * 0.6);
    }
    out[n] = Math.max(-1, Math.min(1, value));
  }
  return out;
}

function formant(frequency: number): number {
  const near = (centre: number, width: number): number => Math.exp(-(((frequency - centre) / width) ** 2));
  return 0.25 + near(600, 250) + 0.7 * near(1150, 300);
}

/** Wind over water: noise through a slow low-pass, swelling. */
export function wind(seed: number, seconds: number, sampleRate: number): Sound {
  const next = random(seed);
  const out = new Float32Array(Math.round(seconds * sampleRate));
  let low = 0;
  for (let n = 0; n < out.length; n++) {
    low = low * 0.985 + normal(next) * 0.015;
    out[n] = low * (0.5 + 0.25 * Math.sin((2 * Math.PI * n) / sampleRate / 3.7));
  }
  return out;
}
