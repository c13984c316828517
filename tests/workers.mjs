/** Set-up of all tests: the programs of worker threads are there, as they are in the built application. */
import { bundleWorkers } from '../scripts/prepare.mjs';

export default function setup() {
  bundleWorkers();
}
