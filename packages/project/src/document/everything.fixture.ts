/** An OpenTimelineIO file with a little of everything, for tests of what comes in and goes out again. */
type Json = Record<string, unknown>;
const time = (value: number, rate = 25): Json => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
const range = (start: number, length: number, rate = 25): Json => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, rate),
  duration: time(length, rate),
});
const marker = (name: string, start: number, color: string | null): Json => ({
  OTIO_SCHEMA: 'Marker.2',
  name,
  color,
  marked_range: range(start, 1),
  metadata: { desk: { by: 'night shift' } },
});
const clip = (name: string, start: number, length: number, more: Json = {}): Json => ({
  OTIO_SCHEMA: 'Clip.2',
  name,
  source_range: range(start, length),
  effects: [],
  markers: [],
  enabled: true,
  metadata: {},
  media_references: {
    DEFAULT_MEDIA: {
      OTIO_SCHEMA: 'ExternalReference.1',
      name: `${name}.mov`,
      target_url: `${name}.mov`,
      available_range: range(0, 500),
      metadata: {},
    },
  },
  active_media_reference_key: 'DEFAULT_MEDIA',
  ...more,
});
const warp = (scalar: number): Json => ({
  OTIO_SCHEMA: 'LinearTimeWarp.1',
  name: 'speed',
  effect_name: 'LinearTimeWarp',
  time_scalar: scalar,
  metadata: {},
  enabled: true,
});
const generator = {
  DEFAULT_MEDIA: {
    OTIO_SCHEMA: 'GeneratorReference.1',
    name: 'bars',
    generator_kind: 'SMPTEBars',
    parameters: { level: 75 },
    metadata: {},
  },
};

export const EVERYTHING: Json = {
  OTIO_SCHEMA: 'Timeline.1',
  name: 'Vessa',
  global_start_time: time(90_000),
  metadata: { desk: { reel: 4, notes: ['a', 'b'] } },
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    name: 'tracks',
    metadata: { desk: { colour: 'warm' } },
    effects: [],
    enabled: true,
    markers: [marker('start', 3, 'RED'), marker('no colour', 9, null)],
    children: [
      {
        OTIO_SCHEMA: 'Track.1',
        name: 'V1',
        kind: 'Video',
        enabled: true,
        metadata: { locked: true },
        effects: [],
        markers: [],
        children: [
          clip('floes', 20, 40, { markers: [marker('look', 31, 'GREEN')] }),
          {
            OTIO_SCHEMA: 'Transition.1',
            name: 'over',
            transition_type: 'SMPTE_Dissolve',
            in_offset: time(5),
            out_offset: time(5),
            metadata: { desk: 1 },
          },
          clip('ridge', 0, 50, { effects: [warp(-1)], markers: [marker('far', 10, 'BLUE')] }),
          {
            OTIO_SCHEMA: 'Gap.1',
            name: 'slug',
            source_range: range(0, 25),
            metadata: { why: 'weather' },
            effects: [],
            markers: [],
            enabled: true,
          },
          clip('talk', 10, 50, {
            effects: [
              warp(0.5),
              { OTIO_SCHEMA: 'Effect.1', name: 'grain', effect_name: 'grain', metadata: { amount: 3 }, enabled: true },
            ],
          }),
          clip('bars', 0, 25, { media_references: generator }),
          {
            OTIO_SCHEMA: 'Stack.1',
            name: 'inset',
            source_range: range(0, 30),
            metadata: {},
            effects: [],
            markers: [],
            enabled: true,
            children: [
              {
                OTIO_SCHEMA: 'Track.1',
                name: 'in',
                kind: 'Video',
                enabled: true,
                metadata: {},
                effects: [],
                markers: [],
                children: [clip('skiff', 5, 60)],
              },
            ],
          },
        ],
      },
      {
        OTIO_SCHEMA: 'Track.1',
        name: 'V2',
        kind: 'Video',
        enabled: false,
        metadata: {},
        effects: [],
        markers: [],
        children: [clip('title', 0, 20, { enabled: false })],
      },
      {
        OTIO_SCHEMA: 'Track.1',
        name: 'A1',
        kind: 'Audio',
        enabled: true,
        metadata: {},
        effects: [],
        markers: [],
        children: [clip('talk', 10, 90)],
      },
    ],
  },
};

/** Without what is empty, what stands for itself when it is left out, and what was written beside; names in order. */
export function normal(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(normal);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value as Json)
    .filter(([key]) => key !== 'thawline')
    .map(([key, inner]) => [key, normal(inner)] as const)
    .filter(([, inner]) => inner !== null && !(typeof inner === 'object' && Object.keys(inner as object).length === 0));
  return Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1)));
}
