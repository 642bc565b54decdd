import { oneWay } from '@thawline/core/fields';
import { constantTiming, rate } from '@thawline/core/time';
import { type Probe, probeWithFields } from '@thawline/media';
import { emptyProject, formSchema, settledForm } from '@thawline/project';
import type { RenderInput } from '../compose/input.js';
import { changed, fileSource, timelineOf } from '../fixtures/project.fixture.js';
import { contentOf } from './cacheKey.js';

const stored: Probe = {
  ...{ kind: 'film', pictures: 50, stored: rate(25), measured: { rate: rate(25), ppm: 0 }, variable: false, seconds: 2 },
  ...{ timing: constantTiming(rate(25), 50), firstSeconds: 0, width: 96, height: 64, sampleAspect: 1, codec: 'ffv1' },
  pixelFormat: 'yuv420p',
  container: 'matroska',
  fields: 'top',
  sound: null,
  timecode: null,
};

/** The name of 20 frames of a file that is frozen at its first picture: what its pictures are is all that differs. */
function nameOf(probe: Probe): string {
  const timeline = { id: 't', name: 'Cut', rate: rate(25), width: 96, height: 64, startFrame: 0, dropFrame: false };
  const source = fileSource('tape', probe);
  const lane = {
    sourceId: 'tape',
    laneId: 'p1',
    link: null,
    start: 0,
    length: 20,
    inPicture: 0,
    headTrim: 0,
    speed: rate(1),
    cut: null,
  };
  const project = changed(
    emptyProject('Test'),
    { type: 'addTimeline', timeline },
    { type: 'addSources', sources: [source] },
    { type: 'placeClips', timelineId: 't', clips: [{ ...lane, id: 'c', fit: 'freeze', curve: null, kept: null }] },
  );
  const input: RenderInput = {
    project,
    timeline: timelineOf(project),
    // The very same file, used in place: what tells contents apart is the same.
    files: { tape: { path: '/footage/tape.mkv', probe, identity: 'these bytes' } },
  };
  const colour = { matrix: 'bt709', range: 'limited', primaries: null, transfer: null } as const;
  return contentOf(input, {
    form: settledForm(formSchema.parse({})),
    colour,
    chunk: { from: 0, to: 20 },
    makers: 'these',
  });
}

test('parts of one file whose fields are read in other ways are never taken for each other', () => {
  const names = [
    nameOf(stored),
    nameOf(probeWithFields(stored, oneWay('one-a-field', 50, 'top'))),
    nameOf(probeWithFields(stored, oneWay('one-a-field', 50, 'bottom'))),
    nameOf(probeWithFields(stored, oneWay('one-a-frame', 50, 'top'))),
  ];
  expect(new Set(names).size).toBe(4);
  expect(nameOf(stored)).toBe(names[0]);
});
