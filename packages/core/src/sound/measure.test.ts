import { integratedLoudness, LoudnessMeter, peakLevel, WaveMaker, wavHead, wavSamples } from './index.js';

const tone = (seconds: number, amplitude: number, frequency: number, channels = 2): Float32Array =>
  Float32Array.from(
    { length: seconds * 48_000 * channels },
    (_, i) => amplitude * Math.sin((2 * Math.PI * frequency * Math.floor(i / channels)) / 48_000),
  );
const measured = (...parts: Float32Array[]) => {
  const meter = new LoudnessMeter(2);
  for (const part of parts) meter.push(part);
  return meter.finish();
};
const level = (db: number): number => 10 ** (db / 20);

describe('loudness, by the cases of EBU Tech 3341', () => {
  test('a stereo tone of 1 kHz at -23 and at -33 dBFS is as loud as that', () => {
    expect(integratedLoudness(measured(tone(20, level(-23), 1000)).energy)).toBeCloseTo(-23, 1);
    expect(integratedLoudness(measured(tone(20, level(-33), 1000)).energy)).toBeCloseTo(-33, 1);
  });

  test('what is quieter than the gate does not count', () => {
    const steps = measured(tone(10, level(-36), 1000), tone(60, level(-23), 1000), tone(10, level(-36), 1000));
    expect(integratedLoudness(steps.energy)).toBeCloseTo(-23, 1);
  });

  test('around the listener: front at -28, centre at -24, sides at -30 dBFS, however loud the deep sounds are', () => {
    const around = (levels: readonly number[]): number | null => {
      const meter = new LoudnessMeter(levels.length);
      const amplitudes = levels.map(level);
      meter.push(tone(20, 1, 1000, levels.length).map((value, i) => value * (amplitudes[i % levels.length] as number)));
      return integratedLoudness(meter.finish().energy);
    };
    expect(around([-28, -28, -24, -30, -30])).toBeCloseTo(-23, 1);
    expect(around([-28, -28, -24, -6, -30, -30])).toBeCloseTo(-23, 1);
  });

  test('silence has neither loudness nor peak; a slow tone peaks at its largest sample', () => {
    const silent = measured(new Float32Array(96_000));
    expect([integratedLoudness(silent.energy), peakLevel(silent.peak)]).toEqual([null, null]);
    expect(peakLevel(measured(tone(1, 0.5, 12_000 / 13)).peak)).toBeCloseTo(-6.02, 1);
  });
});

describe('true peak, by the cases of EBU Tech 3341', () => {
  const shifted = (amplitude: number, frequency: number, degrees: number): Float32Array => {
    const mono = Float32Array.from({ length: 48_000 }, (_, n) => {
      const fade = Math.min(1, n / 2400, (48_000 - n) / 2400);
      return fade * amplitude * Math.sin((2 * Math.PI * frequency * n) / 48_000 + (degrees * Math.PI) / 180);
    });
    return Float32Array.from({ length: 96_000 }, (_, i) => mono[i >> 1] as number);
  };

  // Tones whose samples miss their tops: all of them rise to -6.0 dBTP, within +0.2 and -0.4 dB.
  test.each([
    [12_000, 0],
    [12_000, 45],
    [8000, 60],
    [6000, 22.5],
  ])('a tone of %d Hz at %d degrees rises to what it would be as a wave', (frequency, degrees) => {
    const found = peakLevel(measured(shifted(0.5, frequency, degrees)).peak) as number;
    expect(found).toBeGreaterThan(-6.4);
    expect(found).toBeLessThan(-5.8);
  });

  test('a square at full scale rises above it, and what lies behind the last sample counts', () => {
    const square = Float32Array.from({ length: 9600 }, (_, i) => ((i >> 1) % 16 < 8 ? 1 : -1));
    expect(peakLevel(measured(square).peak)).toBeGreaterThan(0.5);
    const last = new Float32Array(2 * 4800);
    last[last.length - 2] = last[last.length - 1] = 0.5;
    expect(peakLevel(measured(last).peak)).toBeCloseTo(-6.02, 1);
  });

  test('in blocks of any size it is the same', () => {
    const sound = shifted(0.7, 11_111, 33);
    const meter = new LoudnessMeter(2);
    for (let at = 0; at < sound.length; at += 1022) meter.push(sound.subarray(at, at + 1022));
    expect([...meter.finish().peak]).toEqual([...measured(sound).peak]);
  });
});

test('a waveform folds eight bins into one, losing no peak', () => {
  const sound = new Float32Array(48 * 1000);
  sound[48 * 100 + 7] = 0.5;
  sound[48 * 900] = -1;
  const maker = new WaveMaker(48_000, 1);
  const fine = [...maker.push(sound.subarray(0, 10_000)), ...maker.push(sound.subarray(10_000))];
  const { rest, coarse } = maker.finish();
  const bins = [...fine, ...rest];
  expect(bins).toHaveLength(2 * 1000);
  expect([bins[2 * 100 + 1], bins[2 * 900]]).toEqual([16_384, -32_767]);
  expect(coarse.map((c) => c.length / 2)).toEqual([125, 16, 2]);
  for (const level of coarse) expect([Math.max(...level), Math.min(...level)]).toEqual([16_384, -32_767]);
});

describe('WAV', () => {
  const text = (bytes: Uint8Array, at: number, length = 4): string => String.fromCharCode(...bytes.subarray(at, at + length));
  const look = { form: 's24', sampleRate: 48_000, channels: 2, samples: 1001 } as const;

  test('says what it holds, and where it begins', () => {
    const origin = { timeReference: 172_800_000_000, description: 'Main cut' };
    const head = wavHead({ ...look, origin });
    const view = new DataView(head.buffer);
    expect([text(head, 0), text(head, 8), text(head, 12), text(head, 20, 8)]).toEqual(['RIFF', 'WAVE', 'bext', 'Main cut']);
    expect(view.getUint32(4, true)).toBe(head.length - 8 + 1001 * 6);
    const bext = 20;
    expect(view.getBigUint64(bext + 256 + 32 + 32 + 10 + 8, true)).toBe(172_800_000_000n);
    const format = bext + 602;
    expect([text(head, format), view.getUint16(format + 8, true), view.getUint16(format + 22, true)]).toEqual(['fmt ', 1, 24]);
    expect(view.getUint32(head.length - 4, true)).toBe(1001 * 6);
  });

  test('with more than two channels it is of the extensible format, and six have their speakers', () => {
    const head = wavHead({ ...look, form: 'f32', channels: 6 });
    const view = new DataView(head.buffer);
    expect(view.getUint32(4, true)).toBe(head.length - 8 + 1001 * 24);
    const format = 12;
    expect([view.getUint32(format + 4, true), view.getUint16(format + 8, true), view.getUint16(format + 10, true)]).toEqual([
      40, 0xfffe, 6,
    ]);
    // Speakers, then the coding: 3 is float.
    expect([view.getUint32(format + 28, true), view.getUint16(format + 32, true)]).toEqual([0x3f, 3]);
    expect(text(head, format + 48)).toBe('data');
  });

  test('past four gigabytes it is RF64', () => {
    const head = wavHead({ ...look, form: 'f32', samples: 600_000_000 });
    const view = new DataView(head.buffer);
    expect([text(head, 0), text(head, 12), view.getUint32(4, true)]).toEqual(['RF64', 'ds64', 0xffff_ffff]);
    expect(view.getBigUint64(28, true)).toBe(4_800_000_000n);
    expect(view.getBigUint64(20, true)).toBe(BigInt(head.length - 8) + 4_800_000_000n);
  });

  test('whole numbers are rounded and cut off at full scale', () => {
    const bytes = wavSamples(Float32Array.of(1, -1, 0.5, -1 / 8388608), 's24');
    expect([...bytes]).toEqual([255, 255, 127, 0, 0, 128, 0, 0, 64, 255, 255, 255]);
    expect([...new Int16Array(wavSamples(Float32Array.of(2, -0.25), 's16').buffer)]).toEqual([32_767, -8192]);
    expect([...new Float32Array(wavSamples(Float32Array.of(1.5), 'f32').buffer)]).toEqual([1.5]);
  });
});
