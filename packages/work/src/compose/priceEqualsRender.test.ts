import { EASE } from '@thawline/core/cadence';
import { type Rate, rate } from '@thawline/core/time';
import { ffmpeg, type Media, type Probe } from '@thawline/media';
import {
  type Clip,
  emptyProject,
  type Film,
  type MovingClip,
  noTiming,
  type Project,
  plainClip,
  renderedAt,
  type Timeline,
  tallyFrames,
} from '@thawline/project';
import { madeSource } from '@thawline/project/fixture';
import { changed, timelineOf } from '../fixtures/project.fixture.js';
import { composed } from './compose.js';
import { type RenderInput } from './input.js';

/** What a price says of frames, against the bytes that a render composes: every pair of twenty rates, each edited in some way of its own. */
const [WIDTH, HEIGHT, PICTURES, FRAMES] = [32, 18, 90, 24];
const RATES: readonly Rate[] = [
  ...[12, 15, 18, 24, 25, 30, 48, 50, 60, 90, 100, 120, 240].map((n) => rate(n)),
  ...[24, 30, 48, 60, 120].map((n) => rate(n * 1000, 1001)),
  rate(2702, 100),
  rate(8_333_333, 1_000_003),
];

/** Soft hills that pass by slowly: nowhere a cut, across which motion makes nothing. No two pictures are alike, nor is any mix of two like a third. */
function pictureOf(k: number): Uint8Array {
  const picture = new Uint16Array((WIDTH * HEIGHT * 3) / 2).fill(512);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      picture[y * WIDTH + x] =
        512 + 60 * Math.sin((x + k * 0.05) * 0.45) + 40 * Math.cos(y * 0.6 + (x - k * 0.05) * 0.2) + ((k * 7) % 11);
  // Its number, in black and white: even the smallest share of another one shows.
  for (let x = 0; x < 8; x++) picture[(HEIGHT - 1) * WIDTH + x] = (k >> x) & 1 ? 940 : 64;
  return new Uint8Array(picture.buffer);
}
const REAL = Array.from({ length: PICTURES }, (_, k) => pictureOf(k));
const text = (picture: Uint8Array): string => Buffer.from(picture).toString('latin1');
const known = new Set(REAL.map(text));
const black = text(new Uint8Array(new Uint16Array((WIDTH * HEIGHT * 3) / 2).fill(512).fill(64, 0, WIDTH * HEIGHT).buffer));
/** Fine enough that a mix which hardly differs from a picture does. */
const look = { pixelFormat: 'yuv420p10le', colour: null };

const made: Media = {
  ...ffmpeg,
  async *openPictures(_path, _probe, { from = 0 }) {
    for (let k = from; k < PICTURES; k++) yield REAL[k] as Uint8Array;
  },
};

/** Numbers that look drawn by chance and are the same each time. */
function chanceFrom(seed: number): (below: number) => number {
  let state = seed * 2_654_435_761 + 1;
  return (below) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((state / 2 ** 32) * below);
  };
}

const source = (at: Rate): Film => ({
  ...madeSource('drip', at, PICTURES),
  mediaId: 'drip',
  width: WIDTH,
  height: HEIGHT,
  codec: 'ffv1',
});

function timeline(id: string, at: Rate, clips: readonly Clip[]): Timeline {
  const added = { id, name: id, rate: at, width: WIDTH, height: HEIGHT, startFrame: 0, dropFrame: false };
  const empty = timelineOf(changed(emptyProject('Law'), { type: 'addTimeline', timeline: added }));
  const laneId = empty.lanes.find((l) => l.kind === 'picture')?.id ?? '';
  return { ...empty, clips: clips.map((c) => ({ ...c, laneId })) };
}

const clipOf = (id: string, of: string, start: number, length: number): MovingClip => ({ ...plainClip(of), id, start, length });

/** A clip edited in one of many ways. */
function edited(chance: (below: number) => number): Partial<MovingClip> {
  const fit = (['nearest', 'blend', 'motion', 'pictures'] as const)[chance(4)] ?? 'nearest';
  const way = (['even', 'eased', 'held'] as const)[chance(3)] ?? 'even';
  const pins: NonNullable<Clip['curve']> = [
    { frame: 0, picture: chance(40), way, ...(way === 'eased' ? { handles: [...EASE] } : {}) },
    { frame: 5 + chance(12), picture: chance(80), way: 'even' },
  ];
  return {
    fit,
    speed: [rate(1), rate(1, 2), rate(1001, 1000), rate(2)][chance(4)] ?? rate(1),
    curve: fit !== 'pictures' && chance(3) === 0 ? pins : null,
    shutter: [0, 0, 0, 90, 180, 360][chance(6)] ?? 0,
    instead: chance(2) ? [4, 5, 9].map((frame) => ({ frame, as: chance(2) ? 'nearest' : 'blend' })) : [],
    inPicture: chance(20),
    headTrim: chance(5) - 2,
  };
}

/** What the composed bytes are: a picture of the source, the frame before once more, black, or something made of several. */
async function shownBy(project: Project, of: Timeline, range: RenderInput['range']): Promise<Record<string, number>> {
  const probe = {
    pixelFormat: 'yuv420p10le',
    width: WIDTH,
    height: HEIGHT,
    sampleAspect: 1,
    timing: { kind: 'constant', rate: rate(25), pictures: PICTURES },
  };
  const files = { drip: { path: 'drip', probe: probe as unknown as Probe } };
  const shown = { real: 0, held: 0, mixed: 0, black: 0 };
  let before = '';
  for await (const frame of composed({ media: made }, { project, timeline: of, files, look, range: range ?? null }, of)) {
    const bytes = text(frame);
    if (bytes === black) shown.black++;
    else if (bytes === before) shown.held++;
    else if (known.has(bytes)) shown.real++;
    else shown.mixed++;
    before = bytes;
  }
  return shown;
}

/** A mix of mixes may be rounded to a picture again, so that its bytes do not tell what it is: once or twice in many thousand frames. */
function agrees(shown: Record<string, number>, priced: Record<string, number>, once: boolean): boolean {
  const rounded = (priced.mixed ?? 0) - (shown.mixed ?? 0);
  if (once || rounded === 0) return JSON.stringify(shown) === JSON.stringify(priced);
  return shown.black === priced.black && rounded > 0 && rounded <= 2;
}

function priceOf(project: Project, of: Timeline, range: RenderInput['range']): Record<string, number> {
  const { real, held, blended, made: moved, black: empty } = tallyFrames(project, of, noTiming, range);
  return { real, held, mixed: blended + moved, black: empty };
}

test.each(RATES.map((r) => [`${r.num}/${r.den}`, r] as const))(
  'what is priced is what is composed, of %s in all rates, alone and placed in a timeline of another rate',
  async (_, from) => {
    for (const [i, to] of RATES.entries()) {
      const chance = chanceFrom(from.num * 31 + i);
      const alone: Clip = { ...clipOf('c', 'drip', 0, FRAMES), ...edited(chance) };
      const how = edited(chance);
      const way = (['nearest', 'blend', 'motion'] as const)[chance(3)] ?? 'nearest';
      const clip = way === 'nearest' && how.fit === 'nearest' && how.shutter === 0 ? alone : { ...alone, shutter: 0 };
      const lone = timeline('lone', to, [alone]);
      const inner = timeline('inner', to, [clip]);
      const third = RATES[chance(RATES.length)] ?? to;
      const outer = timeline('outer', third, [{ ...clipOf('n', 'inner', 2, FRAMES), ...how, inPicture: 0, headTrim: chance(3) }]);
      const project: Project = { ...emptyProject('Law'), sources: [source(from)], timelines: [inner, outer] };
      const at = renderedAt(project, inner, { rate: third, way });
      const asked: readonly [Project, Timeline, RenderInput['range']][] = [
        [{ ...project, timelines: [lone] }, lone, null],
        [{ ...project, timelines: [lone] }, lone, { from: 5, to: 17 }],
        [project, outer, null],
        [at.project, at.timeline, { from: at.range.from, to: Math.min(at.range.to, at.range.from + FRAMES) }],
      ];
      for (const [of, within, range] of asked) {
        const shown = await shownBy(of, within, range);
        const priced = priceOf(of, within, range);
        if (!agrees(shown, priced, within === lone))
          throw new Error(JSON.stringify({ shown, priced, to, third, clip, how, range, within: within.id }));
      }
    }
  },
);

test('24000/1001 on 24, 1,900 frames by motion: 1,889 are made, and 11 are pictures of their own', () => {
  const at = source(rate(24000, 1001));
  const clip: Clip = { ...clipOf('c', 'drip', 0, 1900), fit: 'motion' };
  const of = timeline('t', rate(24), [clip]);
  const project: Project = { ...emptyProject('Law'), sources: [{ ...at, pictures: 2000 }], timelines: [of] };
  expect(tallyFrames(project, of, noTiming)).toMatchObject({ frames: 1900, made: 1889, real: 11, held: 0 });
});
