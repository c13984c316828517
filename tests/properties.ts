/** Set-up of property tests, for every test file: arrays and strings reach their greatest length, which they otherwise seldom do. */
import fc from 'fast-check';

fc.configureGlobal({ ...fc.readConfigureGlobal(), defaultSizeToMaxWhenMaxSpecified: true });
