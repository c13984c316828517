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

const shared = {
  testEnvironment: '<rootDir>/tests/environment.ts',
  transform,
  setupFiles: ['<rootDir>/tests/properties.ts'],
  // What the code asks for in its loops: each look into the surroundings of a test costs more than what is done with it.
  sandboxInjectedGlobals: [
    'Math',
    'Number',
    'BigInt',
    'Array',
    'Object',
    'String',
    'Map',
    'Set',
    'Uint8Array',
    'DataView',
    'Promise',
    'Error',
  ],
  moduleNameMapper: {
    '^@/(.*)$': '<rootDir>/src/$1',
    '^@tests/(.*)$': '<rootDir>/tests/$1',
    ...(process.env.LOESS_AGAIN && { '^fast-check$': '<rootDir>/tests/again.ts' }),
  },
};

export default {
  // Two busy cores may make a test wait for minutes, only a hang takes this long; properties that are run a hundred times over take as long as that takes.
  testTimeout: process.env.LOESS_AGAIN ? 3_600_000 : 180_000,
  // Every core: nobody works beside the tests.
  maxWorkers: '100%',
  globalSetup: '<rootDir>/tests/workers.mjs',
  testSequencer: '<rootDir>/jest.sequencer.mjs',
  projects: [
    {
      ...shared,
      displayName: 'unit',
      roots: ['<rootDir>/src'],
      testMatch: ['**/*.test.ts'],
      testPathIgnorePatterns: ['\\.proof\\.test\\.ts$'],
    },
    // What goes through everything, through whole volumes, or through thousands of mutants, and takes its time.
    { ...shared, displayName: 'proof', roots: ['<rootDir>/src'], testMatch: ['**/*.proof.test.ts'] },
    {
      ...shared,
      displayName: 'machine',
      roots: ['<rootDir>/machine'],
      testMatch: ['**/*.test.ts'],
      testPathIgnorePatterns: ['\\.matrix\\.test\\.ts$'],
      globalSetup: '<rootDir>/machine/setup.ts',
    },
    // Every combination: run once for a change, by its own command.
    {
      ...shared,
      displayName: 'matrix',
      roots: ['<rootDir>/machine'],
      testMatch: ['**/*.matrix.test.ts'],
      globalSetup: '<rootDir>/machine/setup.ts',
    },
  ],
};
