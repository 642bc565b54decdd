import { wavHead, wavSamples } from '@thawline/core/sound';
import { type ByteSource, PcmReader } from './pcm.js';

const SAMPLES = 1000;
const block = Float32Array.from({ length: 2 * SAMPLES }, (_, i) => (i % 2 === 0 ? i / 4000 : -i / 4000));
const look = { form: 's16', sampleRate: 48_000, channels: 2, samples: SAMPLES } as const;
const wav = Buffer.concat([wavHead({ ...look, origin: { timeReference: 1, description: 'x' } }), wavSamples(block, 's16')]);

/** The bytes in pieces of a size, that breaks off after some of them. */
function inPieces(bytes: Uint8Array, size: number, breaks = Number.POSITIVE_INFINITY): ByteSource {
  let at = 0;
  return {
    read: async () => {
      if (at >= breaks) throw new Error('gone');
      const value = bytes.subarray(at, at + size);
      at += size;
      return value.length > 0 ? { done: false, value } : { done: true };
    },
  };
}

test.each([1, 3, 44, 617, 100_000])(
  'bytes that come %i at a time give the same samples, in pieces of any length',
  async (size) => {
    const reader = await PcmReader.open(inPieces(wav, size));
    const [left, right]: number[][] = [[], []];
    for (let piece = await reader?.take(300); piece; piece = await reader?.take(300)) {
      left?.push(...piece[0]);
      right?.push(...piece[1]);
    }
    expect([left?.length, right?.length]).toEqual([SAMPLES, SAMPLES]);
    for (const k of [0, 1, 299, 300, 999]) {
      expect(left?.[k]).toBeCloseTo(block[2 * k] as number, 4);
      expect(right?.[k]).toBeCloseTo(block[2 * k + 1] as number, 4);
    }
  },
);

test('a stream that ends in its head gives none, one that breaks ends there', async () => {
  expect(await PcmReader.open(inPieces(wav.subarray(0, 30), 7))).toBeNull();
  const reader = await PcmReader.open(inPieces(wav, 500, 2000));
  expect(await reader?.take(SAMPLES)).toBeNull();
});
