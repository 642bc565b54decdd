import Sequencer from '@jest/test-sequencer';

/**
 * Which test files take longest, longest first. A worker that begins one of them last keeps all others waiting; Jest itself goes by the
 * size of a file where nothing was run before.
 */
const LONGEST = [
  'render/renderTimeline',
  'receipt/measure',
  'apps/server/src/renders',
  'cli/src/cli',
  'apps/server/src/server',
  'scripts/crash',
  'media/src/media',
  'audio/soundSync',
  'receipt/untouched',
  'work/src/motion/motion',
  'apps/server/src/sources',
  'apps/server/src/kept',
  'render/codedSound',
  'verdict/verdict',
  'apps/server/src/sound',
  'align/align',
  'media/src/ending',
];

const rank = ({ path }) => {
  const found = LONGEST.findIndex((name) => path.endsWith(`${name}.test.ts`));
  return found < 0 ? LONGEST.length : found;
};

export default class LongestFirst extends Sequencer {
  sort(tests) {
    return super.sort(tests).sort((a, b) => rank(a) - rank(b));
  }
}
