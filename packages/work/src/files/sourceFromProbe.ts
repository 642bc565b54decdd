import type { Probe } from '@thawline/media';
import type { FileSource, Reading, Sequence } from '@thawline/project';

interface Named {
  readonly id: string;
  readonly mediaId: string;
  readonly name: string;
  /** Of numbered pictures: which there are, where that is known. */
  readonly numbers?: Sequence['numbers'];
  /** Of numbered pictures: how they are read. */
  readonly readAt?: Reading;
}

/**
 * A probed file as a source, with what a project keeps of it.
 * @throws Error for numbered pictures without a reading, and for a probe that lacks what its kind has: the media port gives none
 */
export function sourceFromProbe(probe: Probe, { numbers, readAt, ...named }: Named): FileSource {
  const { pictures, stored, measured, seconds, codec, pixelFormat, fields, height } = probe;
  const base = {
    ...named,
    ...(probe.endsEarly ? { endsEarly: true } : {}),
    pictures,
    codec,
    claimed: null,
    timecode: probe.timecode ?? null,
    lost: null,
  };
  const { colour, siting, alpha, highRange, rotation, projection, sampleAspect } = probe;
  const pictured = {
    width: Math.round(probe.width * sampleAspect),
    height,
    pixelFormat,
    ...(sampleAspect === 1 ? {} : { sampleAspect }),
    looks: {
      ...(colour ? { colour } : {}),
      ...(siting ? { siting } : {}),
      ...(alpha ? { alpha } : {}),
      ...(highRange ? { highRange } : {}),
      ...(rotation ? { rotation } : {}),
      ...(projection ? { projection } : {}),
    },
    fields,
  };
  switch (probe.kind) {
    case 'film':
      if (!stored || !measured || seconds === null) throw new Error(`${named.name}: a film without a rate`);
      return {
        ...base,
        ...pictured,
        kind: 'film',
        stored,
        measured,
        variable: probe.variable,
        seconds,
        sound: probe.sound,
        readAt: null,
      };
    case 'sequence':
      if (!readAt) throw new Error(`${named.name}: numbered pictures without a rate to read them at`);
      return { ...base, ...pictured, kind: 'sequence', sound: null, numbers, readAt };
    case 'still':
      return { ...base, ...pictured, kind: 'still', sound: null, readAt: null };
    case 'sound':
      if (!probe.sound || seconds === null) throw new Error(`${named.name}: sound alone without sound`);
      return { ...base, kind: 'sound', seconds, sound: probe.sound, readAt: null };
    default:
      return probe.kind satisfies never;
  }
}
