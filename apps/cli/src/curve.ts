import { readFile } from 'node:fs/promises';
import { type Curve, type CurveFault, curveFault } from '@thawline/core/cadence';
import { curveSchema } from '@thawline/project';

/** Reads pins from a JSON file. @throws an error that names the file and the invalid pin */
export async function readCurve(path: string): Promise<Curve> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw new Error(`${path} cannot be read.`);
  });
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new Error(`${path} is no JSON.`);
  }
  const found = curveSchema.safeParse(json);
  if (found.success) return found.data;
  const [index, field] = found.error.issues[0]?.path ?? [];
  const which =
    typeof index === 'number'
      ? `Pin ${index + 1} is none${field === undefined ? '' : `: look at its ${String(field)}`}`
      : 'It holds no list of pins';
  throw new Error(`${path} is no curve. ${which}. Try [{"frame": 0, "picture": 0}, {"frame": 100, "picture": 25}].`);
}

const FAULTS: Record<CurveFault, (pictures: number) => string> = {
  'no-pins': () => 'It has no pins.',
  'two-on-a-frame': () => 'Two pins stand on one frame, or the frames do not rise.',
  'past-source': (pictures) => `A pin names a picture that is not there: there are 0 to ${pictures - 1}.`,
  'bad-handles': () => 'A handle lies outside its stretch: pictures would run backward.',
};

/** Throws a sentence where pins make no curve of so many pictures. */
export function checkCurve(curve: Curve, path: string, pictures: number): void {
  const fault = curveFault(curve, pictures);
  if (fault) throw new Error(`${path} is no curve of this file. ${FAULTS[fault](pictures)}`);
}
