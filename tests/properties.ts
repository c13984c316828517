/**
 * Set-up of property tests, for every test file: all properties share the seed of the run, and arrays and strings reach
 * their greatest length, which they otherwise seldom do.
 */
import fc from 'fast-check';
import { SEED } from './tier';

fc.configureGlobal({ ...fc.readConfigureGlobal(), seed: SEED, defaultSizeToMaxWhenMaxSpecified: true });
