/** TypeScript sources run as they stand (swc, ES modules); workspace packages resolve to their sources, not to dist. */
export default {
  testEnvironment: 'node',
  testMatch: ['<rootDir>/packages/**/*.test.ts', '<rootDir>/apps/**/*.test.ts', '<rootDir>/scripts/**/*.test.ts'],
  testPathIgnorePatterns: ['/node_modules/', '/dist/'],
  modulePathIgnorePatterns: ['/dist/'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  moduleNameMapper: {
    '^@thawline/core/(.+)$': '<rootDir>/packages/core/src/$1/index.ts',
    '^@thawline/work/definitions$': '<rootDir>/packages/work/src/jobs/index.ts',
    '^@thawline/desk/http$': '<rootDir>/packages/desk/src/http/index.ts',
    '^@thawline/(kernels|project|contract|media|work|rig|desk)$': '<rootDir>/packages/$1/src/index.ts',
    '^@thawline/server/restore$': '<rootDir>/apps/server/src/database/restore.ts',
    '^@thawline/server$': '<rootDir>/apps/server/src/index.ts',
    '^(\\.{1,2}/.*)\\.js$': '$1',
  },
  transform: {
    '^.+\\.tsx?$': [
      '<rootDir>/scripts/transform.mjs',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: false, decorators: true },
          transform: { legacyDecorator: true, decoratorMetadata: true },
          keepClassNames: true,
        },
        module: { type: 'es6' },
      },
    ],
  },
  // Half of the tests wait for processes of their own: one worker a core. A third for two cores gained nothing.
  maxWorkers: '100%',
  testTimeout: 120_000,
};
