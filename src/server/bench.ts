/** The bench: the machine's own block devices, only looked at, beside simulated media, which are sparse files. */
import { readdir, stat } from 'node:fs/promises';
import path from 'node:path';
import type { BenchView } from '@/contract/bench';
import { type Device, lookalikes, mediumOfDevice } from '@/core/medium/device';
import { MEDIUM_KINDS, type MediumKind } from '@/core/medium/medium';
import { plainText } from '../files/plain-file';
import type { Context } from './context';
import { Refusal } from './refusal';

const ENDING = '.json';
const NAME = /^[a-z0-9][a-z0-9-]{0,63}$/;

/** Where the sparse file of a simulated medium lies; refuses names that lead elsewhere. */
export function simulatedPath(context: Context, name: string): string {
  if (!NAME.test(name))
    throw new Refusal(
      400,
      'medium-name-refused',
      'A simulated medium has a name of small letters, digits and dashes.',
      'of',
    );
  return path.join(/* turbopackIgnore: true */ context.folder.bench, `${name}.img`);
}

const numberOf = (value: unknown): number =>
  typeof value === 'number' && Number.isSafeInteger(value) && value >= 0 ? value : 0;
const textOf = (value: unknown): string =>
  typeof value === 'string' ? value.slice(0, 100).replace(/\p{Cc}/gu, ' ') : '';

/** A simulated medium from its description; what the description leaves out or gets wrong is said. */
async function simulated(context: Context, file: string): Promise<Device> {
  const name = file.slice(0, -ENDING.length);
  const unread: string[] = [];
  let json: Record<string, unknown> = {};
  try {
    const value: unknown = JSON.parse(await plainText(path.join(context.folder.bench, file)));
    if (typeof value === 'object' && value !== null) json = value as Record<string, unknown>;
    else unread.push('description: is no object');
  } catch (error) {
    unread.push(`description: ${error instanceof SyntaxError ? 'is not JSON' : 'cannot be read'}`);
  }
  const size = await stat(simulatedPath(context, name)).then(
    (found) => found.size,
    () => 0,
  );
  if (size === 0) unread.push('file: is missing or empty');
  const kind = MEDIUM_KINDS.find((one) => one === json.kind) ?? ('image' satisfies MediumKind);
  return {
    key: `simulated:${name}`,
    node: '',
    simulated: true,
    kind,
    bus: textOf(json.bus),
    size,
    logicalSector: numberOf(json.logicalSector) || 512,
    physicalSector: numberOf(json.physicalSector) || numberOf(json.logicalSector) || 512,
    optimalIo: numberOf(json.optimalIo),
    writeUnit: numberOf(json.writeUnit),
    model: textOf(json.model) || name,
    serial: textOf(json.serial),
    removable: json.removable === true,
    readOnly: false,
    uses: [],
    unread,
  };
}

async function simulatedMedia(context: Context): Promise<Device[]> {
  const files = await readdir(/* turbopackIgnore: true */ context.folder.bench).catch(() => []);
  const names = files.filter((file) => file.endsWith(ENDING) && NAME.test(file.slice(0, -ENDING.length))).sort();
  return Promise.all(names.map((file) => simulated(context, file)));
}

/** Everything on the bench, real devices first; what tells lookalikes apart is said. */
export async function listBench(context: Context): Promise<BenchView> {
  const devices = [...(await context.devices()), ...(await simulatedMedia(context))];
  const alike = lookalikes(devices);
  return {
    media: devices.map((device) => {
      const medium = mediumOfDevice(device);
      return {
        device,
        distinctions: alike.get(device.key) ?? [],
        refused: typeof medium === 'string' ? medium : null,
      };
    }),
  };
}

/** One medium of the bench as it is now; it may have vanished since it was listed. */
export async function benchDevice(context: Context, key: string): Promise<Device> {
  const { media } = await listBench(context);
  const found = media.find(({ device }) => device.key === key);
  if (!found)
    throw new Refusal(
      404,
      'medium-unknown',
      `There is no medium “${key.slice(0, 80)}” on the bench any more. Was it unplugged? Look at the bench again.`,
      'bench',
    );
  return found.device;
}
