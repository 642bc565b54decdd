import { type PixelLayout, pictureBytes, pixelLayout, planeSizes } from '../picture/index.js';
import { planesOf } from './planes.js';
import { planFields } from './reading.js';
import { filmOfField, framesOfFilm, LOW_PASSES, weaveFields } from './weave.js';

const [width, height] = [16, 12];

function picture(layout: PixelLayout, light: (y: number) => number): Uint8Array {
  const made = new Uint8Array(pictureBytes(layout, width, height));
  planesOf(layout, made, width, height).forEach((plane, i) => {
    const size = planeSizes(layout, width, height)[i] as { width: number; height: number };
    for (let y = 0; y < size.height; y++) plane.fill(light(y), y * size.width, (y + 1) * size.width);
  });
  return made;
}

test.each(['yuv420p', 'yuv422p10le'])('each field has the lines of its own picture, in every plane: %s', (format) => {
  const layout = pixelLayout(format) as PixelLayout;
  const [first, second] = [picture(layout, () => 40), picture(layout, () => 200)];
  for (const order of ['top', 'bottom'] as const) {
    const out = new Uint8Array(first.length);
    weaveFields(layout, { width, height, first, second, order, lowPass: 'off', out });
    planesOf(layout, out, width, height).forEach((plane, i) => {
      const size = planeSizes(layout, width, height)[i] as { width: number; height: number };
      for (let y = 0; y < size.height; y++) expect(plane[y * size.width]).toBe((y % 2 === 0) === (order === 'top') ? 40 : 200);
    });
  }
});

test('a low-pass keeps light and takes out of what changes from line to line as much as it says', () => {
  const layout = pixelLayout('gray') as PixelLayout;
  const lines = picture(layout, (y) => (y % 2 === 0 ? 100 : 160));
  const left = { off: 1, light: 0.5, strong: 0 };
  for (const lowPass of LOW_PASSES) {
    const out = new Uint8Array(lines.length);
    weaveFields(layout, { width, height, first: lines, second: lines, order: 'top', lowPass, out });
    const apart = (out[5 * width] as number) - (out[4 * width] as number);
    expect(apart).toBeCloseTo(60 * left[lowPass], 0);
    const plain = picture(layout, () => 77);
    weaveFields(layout, { width, height, first: plain, second: plain, order: 'top', lowPass, out });
    expect(new Set(out)).toEqual(new Set([77]));
  }
});

test('film that is spread over fields comes back as it was, picture by picture', () => {
  for (const pictures of [4, 5, 24, 97, 120]) {
    const frames = framesOfFilm(pictures);
    expect(Math.abs(frames - pictures * 1.25)).toBeLessThanOrEqual(1);
    const plan = planFields([{ way: 'film', from: 0, to: frames, first: 'top', beat: '2:3', passed: 0 }]);
    for (let k = 0; k < plan.pictures; k++) {
      const { top, bottom } = plan.at(k);
      if (top !== null) expect(filmOfField(2 * top)).toBe(k);
      if (bottom !== null) expect(filmOfField(2 * bottom + 1)).toBe(k);
    }
  }
});
