import { emptyProject, formSchema, fromEdit, type Project } from '@thawline/project';
import { endingOf, fileStem, renderOf, renderParamsOf, renderResultOf } from './renders.js';

/** What render jobs keep in their rows, those of earlier versions, too. */
test('a render of an earlier version is told as what it was', () => {
  const params = JSON.stringify({ project: emptyProject('Old'), timelineId: 't', file: 'cut-1-ab12.mp4' });
  const read = renderParamsOf({ params }, '/data/renders');
  expect(read).toMatchObject({ folder: '/data/renders', form: formSchema.parse({}) });
  const lines = [{ what: 'frames', asked: '48', measured: '48', same: true }];
  const result = JSON.stringify({ lines, wrong: [{ frame: 3, shows: 2 }], bytes: 900, differs: 1 });
  expect(renderResultOf({ result }, read)).toMatchObject({
    paths: ['/data/renders/cut-1-ab12.mp4'],
    receipt: { bytes: 900, differs: 1, frames: 48, wrong: [{ frame: 3, frames: 1, shows: 2, asked: null, shown: null }] },
  });
});

test('what cannot be rendered is refused before it waits', () => {
  const opened = fromEdit(
    {
      ...{
        name: 'Cut',
        rate: { num: 25, den: 1 },
        dropFrame: false,
        startFrame: 0,
        size: null,
        lanes: [],
        marks: [],
        kept: null,
      },
    },
    { sources: [], find: () => null, newId: () => 'x' },
  );
  const project: Project = { ...emptyProject('P'), timelines: [...opened.timelines] };
  const [timeline] = project.timelines;
  const part = { range: false, clipId: null };
  expect(() => renderOf(project, 'none', part)).toThrow(expect.objectContaining({ code: 'unknown-timeline' }));
  expect(() => renderOf(project, timeline?.id ?? '', part)).toThrow(expect.objectContaining({ code: 'timeline-empty' }));
});

test('names and endings follow the form', () => {
  expect(fileStem('Ice-out: Teaser (24)')).toBe('ice-out-teaser-24');
  expect(fileStem('…')).toBe('timeline');
  expect(['mp4', 'webm', 'mkv', 'y4m', 'png', 'wav'].map((kind) => endingOf(formSchema.parse({ kind })))).toEqual([
    '.mp4',
    '.webm',
    '.mkv',
    '.y4m',
    '',
    '.wav',
  ]);
});
