import { availableParallelism } from 'node:os';

/** TypeScript sources run as they stand (swc, ES modules); workspace packages resolve to their sources, not to dist. */
const compiled = (tsx) => [
  '<rootDir>/scripts/transform.mjs',
  {
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', tsx, decorators: true },
      transform: { legacyDecorator: true, decoratorMetadata: true, react: { runtime: 'automatic' } },
      keepClassNames: true,
    },
    module: { type: 'es6' },
  },
];

const common = {
  testPathIgnorePatterns: ['/node_modules/', '/dist/'],
  modulePathIgnorePatterns: ['/dist/'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  moduleNameMapper: {
    '^@thawline/core/(.+)$': '<rootDir>/packages/core/src/$1/index.ts',
    '^@thawline/work/definitions$': '<rootDir>/packages/work/src/jobs/index.ts',
    '^@thawline/project/fixture$': '<rootDir>/packages/project/src/fixture/index.ts',
    '^@thawline/desk/http$': '<rootDir>/packages/desk/src/http/index.ts',
    '^@thawline/(kernels|project|contract|media|work|rig|desk)$': '<rootDir>/packages/$1/src/index.ts',
    '^@thawline/server/restore$': '<rootDir>/apps/server/src/database/restore.ts',
    '^@thawline/server$': '<rootDir>/apps/server/src/index.ts',
    '^(\\.{1,2}/.*)\\.js$': '$1',
  },
  transform: {
    '\\.ts$': compiled(false),
    '\\.tsx$': compiled(true),
    '\\.css$': '<rootDir>/scripts/cssModules.mjs',
  },
};

export default {
  projects: [
    {
      ...common,
      displayName: 'units',
      testEnvironment: 'node',
      testMatch: ['<rootDir>/packages/**/*.test.ts', '<rootDir>/apps/**/*.test.ts', '<rootDir>/scripts/**/*.test.ts'],
    },
    // Components as a person finds them, without a browser: what has to be drawn or played is the stories'.
    {
      ...common,
      displayName: 'components',
      // jsdom has no canvas to draw a chart on.
      moduleNameMapper: { '^chart.js$': '<rootDir>/apps/web/src/test/chart.fixture.ts', ...common.moduleNameMapper },
      testEnvironment: '<rootDir>/scripts/jsdomEnvironment.mjs',
      testMatch: ['<rootDir>/apps/web/**/*.test.tsx'],
      setupFilesAfterEnv: ['<rootDir>/apps/web/src/test/setup.ts'],
    },
  ],
  // Half of the tests wait for processes of their own: three workers keep two cores busy.
  maxWorkers: Math.ceil(availableParallelism() * 1.5),
  // A worker begins anew when it has grown: modules of files that are done are never given back.
  workerIdleMemoryLimit: '700MB',
  testSequencer: '<rootDir>/scripts/sequencer.mjs',
  testTimeout: 120_000,
};
