import { rate } from '@thawline/core/time';
import { clipsFor, emptyProject, type Film, noTiming, type Project, sourceOf, type Timeline } from '@thawline/project';
import { cadence, source } from './cadence.fixture.js';
import { type Composed, drawnPictures } from './draw.js';
import { clipPictures, type Look, lookAt, lookOf, momentOf, momentOrWhy } from './looks.js';

const slow = cadence({ speed: rate(1, 8), length: 300 });
const pictures = clipPictures({ ...emptyProject('Test'), sources: [source] }, source, noTiming);

test("keeping pictures shows each once from the clip's first on, whatever its speed or curve", () => {
  expect([0, 1, 7].map((n) => lookAt(slow, n, 'pictures').picture)).toEqual([0, 1, 7]);
  expect(lookAt(slow, 7, 'pictures')).toMatchObject({ share: 0, way: 'pictures' });
  const curve = [
    { frame: 0, picture: 40, way: 'even' as const },
    { frame: 20, picture: 0, way: 'even' as const },
  ];
  const back = cadence({ curve, length: 20, inPicture: 30 });
  expect([0, 5].map((n) => lookAt(back, n, 'pictures').picture)).toEqual([30, 35]);
  expect(momentOf(pictures, lookAt(back, 5, 'pictures'))).toBeNull();
});

test('each way looks at the same position in its own manner, and only motion has something to make', () => {
  expect(lookAt(slow, 3, 'nearest')).toMatchObject({ picture: 1, share: 0, way: 'nearest' });
  expect(lookAt(slow, 3, 'blend')).toEqual({ picture: 1, next: 2, share: 32768, way: 'blend', mix: 'stored', exposed: null });
  expect(momentOf(pictures, lookAt(slow, 3, 'motion'))).toMatchObject({
    seen: [{ from: { key: 'm/1' }, to: { key: 'm/2' }, share: 32768, weight: 1 }],
  });
  expect(momentOf(pictures, lookAt(slow, 4, 'motion'))).toBeNull();
  expect(momentOf(pictures, lookAt(slow, 3, 'blend'))).toBeNull();
});

test('the edit is looked at with what was chosen for single frames', () => {
  const chosen = cadence({
    speed: rate(1, 8),
    length: 300,
    instead: [
      { frame: 3, as: 'nearest' },
      { frame: 5, as: 'blend' },
    ],
  });
  expect(lookOf(chosen, 1)).toEqual({ picture: 0, next: 1, share: 32768, way: 'motion', mix: 'stored', exposed: null });
  expect(lookOf(chosen, 3)).toMatchObject({ picture: 2, share: 0 });
  expect(lookOf(chosen, 5)).toEqual({ picture: 2, next: 3, share: 32768, way: 'blend', mix: 'stored', exposed: null });
  // Beside it motion is still seen as it would be.
  expect(lookAt(chosen, 3, 'motion')).toEqual({ picture: 1, next: 2, share: 32768, way: 'motion', mix: 'stored', exposed: null });
});

describe('an open shutter', () => {
  const shares = (look: Look): readonly number[][] =>
    momentOf(pictures, look)?.seen.map((one) => [drawnPictures(one.from.parts)[0]?.picture ?? -1, one.share, one.weight]) ?? [];

  test('averages the pictures it covers', () => {
    // 100 in 25, half of each frame: two of four pictures.
    const even = cadence({ fit: 'nearest', shutter: 180, length: 100 });
    expect(shares(lookOf(even, 3))).toEqual([
      [12, 0, 0.5],
      [13, 0, 0.5],
    ]);
  });

  test('is given eight moments by motion where it covers few', () => {
    const open = cadence({ speed: rate(1, 8), length: 300, shutter: 180 });
    expect(shares(lookOf(open, 4))).toHaveLength(8);
    expect(shares(lookOf(open, 4)).every(([picture, share]) => picture === 2 && (share as number) > 0)).toBe(true);
    // The same frame without motion stands on one picture: nothing is made of it.
    expect(lookAt(open, 4, 'nearest')).toMatchObject({ picture: 2, exposed: null });
    expect(momentOf(pictures, lookAt(open, 4, 'nearest'))).toBeNull();
  });

  test('mixes its moments where a frame is blended instead', () => {
    const instead = [{ frame: 4, as: 'blend' as const }];
    const open = cadence({ speed: rate(1, 8), length: 300, shutter: 180, instead });
    const seen = shares(lookOf(open, 4));
    expect(seen.every(([, share]) => share === 0)).toBe(true);
    expect(seen.reduce((sum, [, , weight]) => sum + (weight as number), 0)).toBeCloseTo(1, 9);
    // Mixing in linear light is the render's.
    expect(momentOrWhy(pictures, lookOf(cadence({ ...open.clip, mix: 'light' }), 4))).toBe('later');
  });
});

test('a file that is not found has no pictures', () => {
  const lost = { ...source, lost: { path: 'gone.mp4' } } as unknown as Film;
  expect(clipPictures({ ...emptyProject('Test'), sources: [lost] }, lost, noTiming)(3)).toBe('lost');
  expect(pictures(3)).toMatchObject({ key: 'm/3', width: 640, height: 360, parts: [{ mediaId: 'm', picture: 3, opacity: 1 }] });
});

describe('a placed timeline', () => {
  /** Its only clip begins at frame 10, framed small, by the given fit at half speed. */
  const placed = (fit: 'nearest' | 'motion'): ReturnType<typeof clipPictures> => {
    const inner: Timeline = {
      id: 'inner',
      name: 'Inner',
      rate: rate(25),
      width: 1280,
      height: 720,
      startFrame: 0,
      dropFrame: false,
      range: null,
      lanes: [{ id: 'p1', kind: 'picture' as const, name: 'Picture 1', kept: null }],
      clips: [],
      marks: [],
      kept: null,
    };
    const [clip] = clipsFor({ timeline: inner, source, fit, newId: () => 'c' }, noTiming);
    if (!clip) throw new Error('no clip');
    const timeline = { ...inner, clips: [{ ...clip, start: 10, length: 300, speed: rate(1, 8) }] };
    const project: Project = { ...emptyProject('Test'), sources: [source], timelines: [timeline] };
    return clipPictures(project, sourceOf(project, 'inner') as Film, noTiming);
  };

  test('is put together from the pictures of its files, each frame by its own', () => {
    const of = placed('nearest');
    expect(of(14)).toMatchObject({ width: 1280, height: 720, parts: [{ mediaId: 'm', picture: 2, opacity: 1 }] });
    expect(of(14)).not.toMatchObject({ key: (of(16) as Composed).key });
    expect(of(4)).toMatchObject({ parts: [] });
  });

  test('has something to make between two of its frames, but none where motion makes one of them', () => {
    const look = { picture: 13, next: 14, share: 9000, way: 'motion', mix: 'stored', exposed: null } as const;
    expect(momentOf(placed('nearest'), look)).toMatchObject({ seen: [{ share: 9000 }] });
    expect(placed('motion')(14)).toMatchObject({ parts: [{ picture: 2 }] });
    expect(placed('motion')(13)).toBe('later');
    expect(momentOrWhy(placed('motion'), look)).toBe('later');
    // Only the later one of the two is made.
    expect(momentOrWhy(placed('motion'), { ...look, picture: 14, next: 15 })).toBe('later');
    expect(momentOf(placed('motion'), look)).toBeNull();
  });
});
