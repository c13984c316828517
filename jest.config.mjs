const isDeep = process.env.LOESS_TIER === 'deep';

const transform = {
  '^.+\\.(tsx?|mjs)$': [
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
    ...(process.env.LOESS_ROUNDS && { '^fast-check$': '<rootDir>/tests/rounds.ts' }),
  },
};

/** Tests of code that works on a real disk, with sockets and threads. */
const SERVER = ['<rootDir>/src/server', '<rootDir>/src/keeping', '<rootDir>/src/files'];

export default {
  // Only a hang takes this long. Parts of the second tier have no limit by test: a person sees their progress.
  testTimeout: isDeep ? 0x7fff_ffff : 45_000,
  // All cores: nothing else runs beside the tests.
  maxWorkers: '100%',
  globalSetup: '<rootDir>/tests/workers.mjs',
  testSequencer: '<rootDir>/jest.sequencer.mjs',
  reporters: ['default', '<rootDir>/scripts/again-reporter.mjs'],
  projects: [
    {
      ...shared,
      displayName: 'unit',
      roots: ['<rootDir>/src', '<rootDir>/lint', '<rootDir>/scripts', '<rootDir>/tests'],
      testMatch: ['**/*.test.ts'],
      testPathIgnorePatterns: ['\\.proof\\.test\\.ts$', ...SERVER],
    },
    { ...shared, displayName: 'server', roots: SERVER, testMatch: ['**/*.test.ts'] },
    // Whole volumes, thousands of mutants, processes: what takes its time.
    {
      ...shared,
      displayName: 'proof',
      roots: ['<rootDir>/src'],
      testMatch: ['**/*.proof.test.ts'],
      testPathIgnorePatterns: SERVER,
    },
    {
      ...shared,
      displayName: 'machine',
      roots: ['<rootDir>/machine'],
      testMatch: ['**/*.test.ts'],
      globalSetup: '<rootDir>/machine/setup.ts',
      setupFilesAfterEnv: ['<rootDir>/machine/no-limit.ts'],
    },
  ],
};
