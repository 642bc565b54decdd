import type { Probe } from '@thawline/media';

/** What of a probe a project's source keeps. */
export function sourceFacts(probe: Probe) {
  const { kind, pictures, stored, measured, variable, seconds, height, codec, pixelFormat, fields, sound } = probe;
  const width = Math.round(probe.width * probe.sampleAspect);
  const early = probe.endsEarly ? { endsEarly: true } : {};
  return { ...early, kind, pictures, stored, measured, variable, seconds, width, height, codec, pixelFormat, fields, sound };
}
