import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { checkCurve, readCurve } from './curve.js';

const folder = mkdtempSync(join(tmpdir(), 'thawline-curve-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A curve of six pictures, from what a file holds. */
async function curveOf(content: string) {
  const path = join(folder, 'pins.json');
  writeFileSync(path, content);
  const curve = await readCurve(path);
  checkCurve(curve, path, 6);
  return curve;
}

test('pins are read as they are written', async () => {
  const pins = [
    { frame: 0, picture: 5 },
    { frame: 5, picture: 0, way: 'held' },
  ];
  expect(await curveOf(JSON.stringify(pins))).toMatchObject(pins);
});

test.each([
  ['{', 'is no JSON'],
  [JSON.stringify({ pins: [] }), 'holds no list of pins'],
  [JSON.stringify([{ frame: 0, picture: 1.5 }]), 'Pin 1 is none: look at its picture'],
  [
    JSON.stringify([
      { frame: 3, picture: 0 },
      { frame: 3, picture: 2 },
    ]),
    'Two pins stand on one frame',
  ],
  [JSON.stringify([{ frame: 0, picture: 6 }]), 'there are 0 to 5'],
])('%s is refused with the file and the pin that is wrong', async (content, said) => {
  await expect(curveOf(content)).rejects.toThrow(said);
  await expect(curveOf(content)).rejects.toThrow('pins.json');
});

test('a file that is not there is named', async () => {
  await expect(readCurve(join(folder, 'gone.json'))).rejects.toThrow('gone.json cannot be read');
});
