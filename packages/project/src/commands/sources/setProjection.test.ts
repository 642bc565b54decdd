import { base, madeSound, run } from '../../document/project.fixture.js';

test('a sound has no pictures to be of all around', () => {
  const project = run(base, { type: 'addSources', sources: [madeSound('surf', 96_000)] });
  expect(() => run(project, { type: 'setProjection', sourceIds: ['surf'], projection: 'equirectangular' })).toThrow(
    'sound-alone',
  );
});
