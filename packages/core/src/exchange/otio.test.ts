import { rate } from '../time/index.js';
import { type Edit, readOtio, secondsIn, writeOtio } from './index.js';

const time = (value: number | null, r: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: r });
const range = (start: number, length: number, r: number, lengthRate = r) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, r),
  duration: time(length, lengthRate),
});
const gap = (length: number, r: number) => ({ OTIO_SCHEMA: 'Gap.1', source_range: range(0, length, r) });
const clip = (name: string, more: object = {}) => ({
  OTIO_SCHEMA: 'Clip.2',
  name,
  source_range: range(50, 100, 50, 25),
  media_references: {
    DEFAULT_MEDIA: {
      OTIO_SCHEMA: 'ExternalReference.1',
      target_url: `file:///vessa/${name}.mov`,
      available_range: range(0, 400, 50),
      metadata: { roll: 7 },
    },
  },
  active_media_reference_key: 'DEFAULT_MEDIA',
  ...more,
});
const track = (children: unknown[], kind = 'Video', more: object = {}) => ({
  OTIO_SCHEMA: 'Track.1',
  name: kind,
  kind,
  children,
  ...more,
});
const file = (tracks: unknown[], more: object = {}) =>
  JSON.stringify({
    OTIO_SCHEMA: 'Timeline.1',
    name: 'Thaw',
    global_start_time: time(90_000, 25),
    tracks: { OTIO_SCHEMA: 'Stack.1', name: 'tracks', children: tracks },
    ...more,
  });
const only = (text: string): Edit => {
  const { edits, troubles } = readOtio(text);
  expect(troubles).toEqual([]);
  expect(edits).toHaveLength(1);
  return edits[0] as Edit;
};

test('tracks, gaps, clips and ranges at different rates lie where they belong', () => {
  const edit = only(file([track([gap(10, 25), clip('floes'), gap(12, 24), clip('jetty')]), track([clip('talk')], 'Audio')]));
  expect(edit).toMatchObject({ name: 'Thaw', rate: rate(25), startFrame: 90_000 });
  expect(edit.lanes.map((l) => [l.kind, l.clips.map((c) => [c.name, c.start, c.length])])).toEqual([
    [
      'picture',
      [
        ['floes', 10, 100],
        ['jetty', 123, 100],
      ],
    ],
    ['sound', [['talk', 0, 100]]],
  ]);
  const first = edit.lanes[0]?.clips[0];
  expect(first && secondsIn(first.from)).toBe(1);
  expect(first?.media).toMatchObject({ name: 'floes.mov', url: 'file:///vessa/floes.mov', rate: rate(50) });
});

test('a thousand lengths that are no whole frames add up without drift', () => {
  const children = Array.from({ length: 1000 }, (_, i) => clip(`c${i}`, { source_range: range(0, 10, 24) }));
  const edit = only(file([track(children)], { global_start_time: time(0, 25) }));
  const last = edit.lanes[0]?.clips[999];
  // 10 000 frames of 24 are 10 416.67 of 25.
  expect((last?.start ?? 0) + (last?.length ?? 0)).toBe(10_417);
  const clips = edit.lanes[0]?.clips ?? [];
  expect(clips.every((c, i) => i === 0 || c.start === (clips[i - 1]?.start ?? 0) + (clips[i - 1]?.length ?? 0))).toBe(true);
});

test('linear time effects multiply, a freeze has no speed, what is no time effect is kept', () => {
  const warp = (scalar: number) => ({ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: scalar });
  const { edits, troubles } = readOtio(
    file([
      track([
        clip('slow', { effects: [warp(0.5), warp(0.5)] }),
        clip('ice', { effects: [{ OTIO_SCHEMA: 'FreezeFrame.1', time_scalar: 0 }] }),
        clip('odd', { effects: [{ OTIO_SCHEMA: 'Effect.1', name: 'grain' }] }),
        clip('back', { effects: [warp(-1)] }),
      ]),
    ]),
  );
  const [slow, ice, odd, back] = edits[0]?.lanes[0]?.clips ?? [];
  expect(slow?.speed).toEqual(rate(1, 4));
  expect(ice?.speed).toBeNull();
  expect(odd?.kept).toMatchObject({ effects: [{ name: 'grain' }] });
  expect(back?.speed).toEqual(rate(1));
  expect(back?.backward).toBe(true);
  expect(troubles.map((t) => t.code)).toEqual(['unknown-effect']);
});

test('a stack within a track is a timeline of its own; its range is the clip', () => {
  const inner = { OTIO_SCHEMA: 'Stack.1', name: 'Inner', source_range: range(24, 48, 24), children: [track([clip('floes')])] };
  const edit = only(file([track([inner])]));
  const nested = edit.lanes[0]?.clips[0];
  expect(nested).toMatchObject({ name: 'Inner', start: 0, length: 50 });
  expect(nested && secondsIn(nested.from)).toBe(1);
  expect(nested && 'nested' in nested.media && nested.media.nested.lanes[0]?.clips[0]?.start).toBe(0);
});

test('what is written and read again is the same edit, kept fields and all', () => {
  const marker = {
    OTIO_SCHEMA: 'Marker.2',
    name: 'look',
    color: 'GREEN',
    marked_range: range(30, 5, 25),
    metadata: { by: 'desk' },
  };
  const inner = {
    OTIO_SCHEMA: 'Stack.1',
    name: 'Inner',
    source_range: range(24, 48, 24),
    children: [track([clip('floes')])],
    metadata: { shelf: 3 },
  };
  const text = file(
    [
      track(
        [
          gap(10, 25),
          clip('floes', { metadata: { note: { deep: [1, 2] } }, markers: [marker], reel: 'A7' }),
          inner,
          clip('slow', { effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 0.834166666667 }] }),
        ],
        'Video',
        { metadata: { locked: true } },
      ),
      track([clip('talk')], 'Audio'),
    ],
    { metadata: { production: 'thaw' }, invented: [4, 5] },
  );
  const once = only(text);
  const written = writeOtio(once);
  expect(only(written)).toEqual(only(writeOtio(only(written))));
  const again = only(written);
  expect(again.lanes).toEqual(
    once.lanes.map((l) => ({
      ...l,
      clips: l.clips.map((c) =>
        'nested' in c.media ? expect.objectContaining({ name: c.name, from: c.from, length: c.length }) : c,
      ),
    })),
  );
  const json = JSON.parse(written);
  expect(json).toMatchObject({ invented: [4, 5], metadata: { production: 'thaw' } });
  expect(json.tracks.children[0]).toMatchObject({ metadata: { locked: true } });
  expect(json.tracks.children[0].children[1]).toMatchObject({
    reel: 'A7',
    metadata: { note: { deep: [1, 2] } },
    markers: [marker],
  });
  expect(json.tracks.children[0].children[2].metadata.shelf).toBe(3);
});

describe('what is wrong is told, and the rest opens', () => {
  test.each([
    ['not JSON', '{"OTIO_SCHEMA": ', 'not-json'],
    ['no timeline', '{"OTIO_SCHEMA": "Clip.2"}', 'not-an-edit'],
    ['a list', '[1, 2]', 'not-an-edit'],
    ['a number', '7', 'not-an-edit'],
  ])('%s', (_, text, code) => {
    const { edits, troubles } = readOtio(text);
    expect(edits).toEqual([]);
    expect(troubles.map((t) => t.code)).toEqual([code]);
  });

  test('a schema of a version ahead is read as far as it is known', () => {
    const { edits, troubles } = readOtio(file([track([clip('floes', { OTIO_SCHEMA: 'Clip.9' })])]));
    expect(edits[0]?.lanes[0]?.clips).toHaveLength(1);
    expect(troubles).toEqual([{ code: 'newer-schema', place: 'Thaw / Video (track 1) / floes (1)', detail: 'Clip.9' }]);
  });

  test('negative lengths and NaN are told with their place; what follows stays in place', () => {
    const text = file([
      track([
        clip('a'),
        clip('neg', { source_range: range(0, -5, 25) }),
        clip('nan', { source_range: range(0, 10, 25) }),
        clip('b'),
      ]),
    ]).replace('"value":10,"rate":25', '"value":NaN,"rate":25');
    const { edits, troubles } = readOtio(text);
    expect(edits[0]?.lanes[0]?.clips.map((c) => [c.name, c.start])).toEqual([
      ['a', 0],
      ['b', 100],
    ]);
    expect(troubles.map((t) => t.code)).toEqual(['negative-length', 'not-a-number']);
  });

  test('nested a thousand deep: the outermost open, the rest is told', () => {
    let inner: unknown = clip('floes');
    for (let i = 0; i < 1000; i++) inner = { OTIO_SCHEMA: 'Stack.1', name: `s${i}`, children: [track([inner])] };
    const { edits, troubles } = readOtio(file([track([inner])]));
    expect(edits).toHaveLength(1);
    expect(troubles.map((t) => t.code)).toContain('too-deep');
    const far = `${'{"OTIO_SCHEMA":"Stack.1","children":['.repeat(60_000)}${']}'.repeat(60_000)}`;
    expect(readOtio(far).troubles.length).toBeGreaterThan(0);
  });

  test('a clip that is switched off is told, and stays so on the way back', () => {
    const { edits, troubles } = readOtio(file([track([clip('a', { enabled: false })])]));
    expect(troubles.map((t) => t.code)).toEqual(['switched-off']);
    expect(JSON.parse(writeOtio(edits[0] as Edit)).tracks.children[0].children[0].enabled).toBe(false);
  });

  test('an unknown object and a transition leave the clips where they were', () => {
    const { edits, troubles } = readOtio(
      file([
        track([
          clip('a'),
          { OTIO_SCHEMA: 'Transition.1', transition_type: 'SMPTE_Dissolve' },
          { OTIO_SCHEMA: 'Blob.1', source_range: range(0, 20, 25) },
          clip('b'),
        ]),
      ]),
    );
    expect(edits[0]?.lanes[0]?.clips.map((c) => c.start)).toEqual([0, 120]);
    expect(troubles.map((t) => t.code)).toEqual(['transition', 'unknown-object']);
  });
});

test('media references beside the active one come back as they were', () => {
  const references = {
    full: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'file:///vessa/full.mov' },
    small: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'file:///vessa/small.mov', metadata: { size: 'small' } },
  };
  const edit = only(file([track([clip('floes', { media_references: references, active_media_reference_key: 'full' })])]));
  expect(edit.lanes[0]?.clips[0]?.media).toMatchObject({ name: 'full.mov' });
  const back = JSON.parse(writeOtio(edit)).tracks.children[0].children[0];
  expect(back).toMatchObject({ active_media_reference_key: 'full', media_references: references });
});

describe('a file made to hold up whoever reads it', () => {
  test('thousands of lengths at rates without a common measure are added within a nanosecond, and it is told', () => {
    // Each rate has a prime of its own in it: exact sums would have thousands of digits.
    const primes = [10_007, 10_009, 10_037, 10_039, 10_061, 10_067, 10_069, 10_079, 10_091, 10_093];
    const rates = Array.from({ length: 400 }, (_, i) => 26.4 + (i + 1) / (primes[i % primes.length] as number));
    const { edits, troubles } = readOtio(
      file([track(rates.map((r, i) => ({ ...clip(`c${i}`), source_range: range(0, 48, r) })))]),
    );
    expect(troubles).toEqual([
      { code: 'rounded', place: expect.stringContaining('track 1'), detail: expect.stringMatching(/^3\d\d$/) },
    ]);
    const clips = edits[0]?.lanes[0]?.clips ?? [];
    expect(clips).toHaveLength(400);
    let seconds = 0;
    for (const [i, r] of rates.entries()) {
      expect(clips[i]?.start).toBe(Math.round(seconds * 25));
      seconds += 48 / r;
    }
  });

  test('what is nested without end is left out with a sentence, and the rest is opened', () => {
    const deep = `{"m":${'{"m":'.repeat(3000)}1${'}'.repeat(3000)}}`;
    const text = file([track([clip('floes', { metadata: 'DEEP' })])]).replace('"DEEP"', deep);
    const { edits, troubles } = readOtio(text);
    expect(troubles).toEqual([{ code: 'deep-value', place: '', detail: '250' }]);
    expect(edits[0]?.lanes[0]?.clips).toHaveLength(1);
    expect(() => JSON.stringify(edits[0]?.lanes[0]?.clips[0]?.kept)).not.toThrow();
  });
});
