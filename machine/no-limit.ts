/** Set-up of each machine test: it takes as long as its machines do, and these are ended where they hang (emulator.ts). */
// eslint-disable-next-line tests/no-long-limit -- no limit of its own: a machine that hangs is ended, and its test fails with that
jest.setTimeout(0x7fff_ffff);
