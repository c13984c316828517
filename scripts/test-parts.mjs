/**
 * The parts of the tests. `npm test` runs the parts of the first tier, `npm run test:deep` those of the second; CONTRIBUTING.md
 * shows this list as a table (`npm run test:table`).
 *
 * How a part runs:
 *   checks: programs that read the sources, two at a time
 *   jest: a project of jest.config.mjs; in the second tier with all cases instead of a few
 *   playwright: the tests of e2e/
 *   program: a program that prints `N passed, N failed` as its last line; gets the seed as its last argument
 */

/**
 * @typedef {object} Part
 * @property {string} name
 * @property {'first' | 'deep'} tier
 * @property {string} what what runs
 * @property {string} finds what only this part can find
 * @property {readonly ('debian' | 'application' | 'terminal' | 'guests')[]} [needs] what is prepared before it
 * @property {'checks' | 'jest' | 'playwright' | 'program'} runner
 * @property {readonly string[]} [projects] of Jest
 * @property {readonly string[]} [files] patterns of paths, for Jest
 * @property {boolean} [withProperties] only files of Jest that hold a property
 * @property {readonly string[]} [program] a TypeScript program and its arguments, or a name of prepare.mjs
 * @property {Readonly<Record<string, string>>} [env]
 */

/** @type {readonly Part[]} */
export const PARTS = [
  {
    name: 'static',
    tier: 'first',
    runner: 'checks',
    needs: ['application'],
    what: 'types, lint, layers and circles, formatting, dead code',
    finds: 'code that breaks a rule of the house without breaking a test',
  },
  {
    name: 'unit',
    tier: 'first',
    runner: 'jest',
    projects: ['unit'],
    what: 'core, terminal and interface state, one module at a time',
    finds: 'a wrong result of one function, within a minute',
  },
  {
    name: 'server',
    tier: 'first',
    runner: 'jest',
    projects: ['server'],
    what: 'server, data folder, files and threads on a real disk and real sockets',
    finds: 'requests, uploads, jobs and locks that leave something behind or hang',
  },
  {
    name: 'proof',
    tier: 'first',
    runner: 'jest',
    projects: ['proof'],
    needs: ['debian', 'terminal'],
    what: 'properties, whole volumes, independent readers, damaged media, the terminal as a process; a few cases of each',
    finds: 'combinations that no example has',
  },
  {
    name: 'torture',
    tier: 'first',
    runner: 'program',
    program: ['torture', '40'],
    what: 'a data folder killed, cut off from power, and met with faults of its disk, 40 times',
    finds: 'acknowledged data that a crash loses',
  },
  {
    name: 'machine',
    tier: 'first',
    runner: 'jest',
    projects: ['machine'],
    needs: ['debian', 'terminal', 'guests'],
    what: 'a Linux kernel, UEFI firmware, a BIOS and a board loader use what was built; one case of each kind',
    finds: 'bytes that agree with our reading of a specification and not with the programs of the world',
  },
  {
    name: 'browser',
    tier: 'first',
    runner: 'playwright',
    needs: ['debian', 'application'],
    what: 'Chromium uses the production build, two tests at a time',
    finds: 'faults between screens, keys, network and server',
  },
  {
    name: 'deep-proof',
    tier: 'deep',
    runner: 'jest',
    projects: ['proof', 'server'],
    needs: ['debian', 'terminal'],
    what: '“proof” and “server” with all cases; every signal at every moment of every command',
    finds: 'rare combinations, and moments at which a signal leaves half a file',
  },
  {
    name: 'properties',
    tier: 'deep',
    runner: 'jest',
    projects: ['unit'],
    withProperties: true,
    env: { LOESS_ROUNDS: '100' },
    what: 'every property of the unit tests a hundred times, each time with another seed',
    finds: 'cases that one run in a hundred draws',
  },
  {
    name: 'properties-volumes',
    tier: 'deep',
    runner: 'jest',
    projects: ['proof'],
    withProperties: true,
    env: { LOESS_ROUNDS: '10' },
    what: 'every property of the proofs, all cases, ten times, each time with another seed',
    finds: 'trees, layouts and damages that one run in ten draws',
  },
  {
    name: 'layouts',
    tier: 'deep',
    runner: 'program',
    program: ['tests/fuzz-all.ts', '20'],
    what: '40,000 layouts built onto old bytes and read back, their remedies and gestures, 20,000 damaged images',
    finds: 'a layout that is accepted and not built as it was meant',
  },
  {
    name: 'readers',
    tier: 'deep',
    runner: 'program',
    needs: ['debian'],
    program: ['tests/fuzz-readers.ts', '300000'],
    what: '300,000 mutants of every kind of medium and archive, guided by coverage, on all cores',
    finds: 'bytes that crash a reader or keep it busy',
  },
  {
    name: 'deep-torture',
    tier: 'deep',
    runner: 'program',
    program: ['torture', '1000'],
    what: 'a data folder killed, cut off and met with every fault at every call, 1,000 rounds and more',
    finds: 'the one call whose failure loses acknowledged data',
  },
  {
    name: 'machine-ext',
    tier: 'deep',
    runner: 'jest',
    projects: ['machine'],
    files: ['machine/ext\\.test'],
    needs: ['debian', 'guests'],
    what: 'every profile, block, size, journal and sector size of ext, used, filled and grown by a Linux kernel',
    finds: 'a combination of ext that a kernel refuses or damages',
  },
  {
    name: 'machine-cuts',
    tier: 'deep',
    runner: 'jest',
    projects: ['machine'],
    files: ['machine/ext-(cuts|forms|found)\\.test'],
    needs: ['debian', 'guests'],
    what: '120 ext volumes cut off in the middle of a write, replayed, repacked; all forms and found volumes',
    finds: 'a journal that a kernel replays in another way',
  },
  {
    name: 'machine-media',
    tier: 'deep',
    runner: 'jest',
    projects: ['machine'],
    files: ['machine/(?!ext)'],
    needs: ['debian', 'terminal', 'guests'],
    what: 'every table, FAT, cluster, sector size, round trip, repair, mount table and start',
    finds: 'a combination that a kernel, firmware or loader reads in another way',
  },
  {
    name: 'deep-browser',
    tier: 'deep',
    runner: 'playwright',
    needs: ['debian', 'application'],
    what: '“browser” with random sequences of work by the hundred',
    finds: 'work that a killed window or a lost answer loses',
  },
  {
    name: 'mutants',
    tier: 'deep',
    runner: 'program',
    needs: ['debian', 'terminal'],
    program: ['tests/mutants.ts'],
    what: '40 chosen lines of the product, each changed in turn: its tests must fail',
    finds: 'tests that no longer fail',
  },
];
