/** Runs once before the machine tests: everything that they fetch from Debian's packages is there afterwards. */
import { prepareGuests } from './guest';
import { bootManagerFile, firmwareFile, loaderFile, starterFile } from './packages';

export default async function setup(): Promise<void> {
  await prepareGuests();
  loaderFile();
  firmwareFile();
  bootManagerFile();
  starterFile();
}
