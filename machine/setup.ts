/** Runs once before the machine tests: everything that they fetch from Debian's packages is there afterwards. */
import { bootManagerFile, firmwareFile, loaderFile } from './firmware';
import { prepareGuests, starterFile } from './guest';

export default function setup(): void {
  prepareGuests();
  loaderFile();
  firmwareFile();
  bootManagerFile();
  starterFile();
}
