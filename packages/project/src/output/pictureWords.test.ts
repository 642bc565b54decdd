import { rate } from '@thawline/core/time';
import { base, madeSource, newId, place, run } from '../document/project.fixture.js';
import {
  clipsFor,
  formSchema,
  noTiming,
  type Project,
  type RenderFormInput,
  settledForm,
  type Timeline,
  timelineAsSource,
} from '../index.js';
import { colourReason, lightWords, pictureNotes } from './pictureWords.js';

test('colours in words, with their reason', () => {
  expect(lightWords({ primaries: 'bt2020', transfer: 'smpte2084' })).toBe('BT.2020, PQ');
  expect(lightWords({ primaries: 'bt709', transfer: 'bt709' })).toBe('BT.709');
  expect(lightWords({ primaries: null, transfer: null })).toBe('what its sources are');
  const colour = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'limited' as const };
  expect(colourReason({ colour, reason: 'most', share: 0.7, converted: [] })).toBe('BT.709, as 70 % of its frames');
});

test('what becomes of transparency is told before: the ground it goes over, and timelines that have none', () => {
  const clear = { ...madeSource('keyed', rate(25), 50), pixelFormat: 'yuva444p' };
  const added = run(base, { type: 'addSources', sources: [clear] });
  const shown = run(added, place(added, 'keyed', 0));
  const notes = (project: Project, form: RenderFormInput) => {
    const timeline = project.timelines.at(-1) as Timeline;
    return pictureNotes(project, timeline, null, settledForm(formSchema.parse(form))).join(' ');
  };
  expect(notes(shown, { kind: 'mp4', over: '#ffffff' })).toContain('nothing lies beneath, the file is white.');
  expect(notes(shown, { kind: 'mkv', over: 'nothing' })).not.toContain('nothing lies beneath');
  const timeline = { id: 'o', name: 'Outer', rate: rate(25), width: 640, height: 360 };
  const outer = run(shown, { type: 'addTimeline', timeline } as never);
  const source = timelineAsSource(outer, outer.timelines[0] as Timeline);
  const clips = clipsFor({ timeline: outer.timelines[1] as Timeline, source, fit: 'nearest', newId }, noTiming);
  const nested = run(outer, { type: 'placeClips', timelineId: 'o', clips } as never);
  expect(notes(nested, { kind: 'mkv', over: 'nothing' })).not.toContain('nothing lies beneath');
  expect(notes(nested, { kind: 'mp4', over: '#ffffff' })).toContain('nothing lies beneath, the file is white.');
});

test('displays and light levels that differ are told to be left out, where they agree nothing is', () => {
  const colour = { matrix: 'bt2020nc', primaries: 'bt2020', transfer: 'smpte2084', range: 'limited' as const };
  const lit = (name: string, most: number) => ({
    ...madeSource(name, rate(25), 50),
    looks: { colour, highRange: { light: { most, average: 200 } } },
  });
  const notesOf = (other: number): string => {
    const added = run(base, { type: 'addSources', sources: [lit('dawn', 1000), lit('dusk', other)] });
    const first = run(added, place(added, 'dawn', 0));
    const project = run(first, place(first, 'dusk', 60));
    const form = settledForm(formSchema.parse({ kind: 'mp4', codec: 'hevc', depth: 10 }));
    return pictureNotes(project, project.timelines[0] as Timeline, null, form).join(' ');
  };
  expect(notesOf(4000)).toContain('differ in mastering display or light level: the file says neither.');
  expect(notesOf(1000)).not.toContain('the file says neither');
});
