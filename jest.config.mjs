const transform = {
  '^.+\\.tsx?$': [
    '@swc/jest',
    {
      jsc: {
        target: 'es2022',
        parser: { syntax: 'typescript', tsx: true, decorators: true },
        transform: { legacyDecorator: true, decoratorMetadata: true, react: { runtime: 'automatic' } },
        keepClassNames: true,
      },
      module: { type: 'commonjs' },
    },
  ],
};

// Two busy cores may make a test wait; only a hang takes this long.
const shared = {
  testEnvironment: 'node',
  testTimeout: 30_000,
  transform,
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1', '^@tests/(.*)$': '<rootDir>/tests/$1' },
};

export default {
  // Every core: nobody works beside the tests.
  maxWorkers: '100%',
  testSequencer: '<rootDir>/jest.sequencer.mjs',
  projects: [
    {
      ...shared,
      displayName: 'unit',
      roots: ['<rootDir>/src'],
      testMatch: ['**/*.test.ts'],
      testPathIgnorePatterns: ['\\.proof\\.test\\.ts$'],
    },
    // What goes through everything, or through thousands of mutants, and takes its time.
    { ...shared, displayName: 'proof', roots: ['<rootDir>/src'], testMatch: ['**/*.proof.test.ts'] },
    {
      ...shared,
      displayName: 'machine',
      roots: ['<rootDir>/machine'],
      testMatch: ['**/*.test.ts'],
      globalSetup: '<rootDir>/machine/setup.ts',
    },
  ],
};
