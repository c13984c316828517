/**
 * The block devices of a running Linux, read from sysfs and procfs. Nothing is opened but
 * small text files; no privilege is needed. What is missing or unreadable is said, and never
 * keeps the other devices from being listed.
 */
import { readdir, readFile, realpath } from 'node:fs/promises';
import path from 'node:path';
import type { Device, DeviceUse } from '@/core/medium/device';
import type { MediumKind } from '@/core/medium/medium';

/** Sizes under /sys/block are counted in these, whatever the device's sectors. */
const UNIT = 512;
/** Longest small file that is read. */
const SMALL = 4096;

/** Reads files below a root, and remembers what could not be read. */
class Tree {
  readonly unread: string[] = [];

  constructor(
    private readonly root: string,
    private readonly device: string,
  ) {}

  private full(name: string): string {
    return path.join(this.root, 'sys/block', this.device, name);
  }

  private async bytes(name: string): Promise<Buffer | undefined> {
    try {
      return (await readFile(this.full(name))).subarray(0, SMALL);
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code !== 'ENOENT' && code !== 'ENOTDIR')
        this.unread.push(`${name}: ${code === 'EACCES' ? 'permission denied' : (code ?? 'unreadable')}`);
      return undefined;
    }
  }

  async text(name: string): Promise<string> {
    return ((await this.bytes(name))?.toString('utf8') ?? '').replace(/[\p{Cc}]+/gu, ' ').trim();
  }

  async number(name: string): Promise<number> {
    const n = Number(await this.text(name));
    return Number.isSafeInteger(n) && n > 0 ? n : 0;
  }

  /** Serial of SATA and SCSI: a header of four bytes, the last two the length, then text. */
  async vpd80(): Promise<string> {
    const page = await this.bytes('device/vpd_pg80');
    if (!page || page.length < 4) return '';
    return page
      .subarray(4, 4 + page.readUInt16BE(2))
      .toString('latin1')
      .replace(/[^\x20-\x7e]+/g, ' ')
      .trim();
  }

  async names(name: string): Promise<string[]> {
    try {
      return (await readdir(this.full(name))).sort();
    } catch {
      return [];
    }
  }

  /** Where the device hangs, from the real path of its directory. */
  async place(): Promise<string> {
    try {
      return await realpath(this.full(''));
    } catch {
      return this.full('');
    }
  }
}

function busOf(node: string, place: string): string {
  if (node.startsWith('nvme')) return 'NVMe';
  if (node.startsWith('mmcblk')) return 'MMC';
  if (node.startsWith('loop')) return 'loop';
  if (/\/virtio\d+\//.test(place) || node.startsWith('vd')) return 'virtio';
  if (/\/usb\d+\//.test(place)) return 'USB';
  if (/\/ata\d+\//.test(place)) return 'SATA';
  return /\/host\d+\//.test(place)
    ? 'SCSI'
    : node.startsWith('dm-') || node.startsWith('md')
      ? 'made of others'
      : 'unknown';
}

/** The serial of a USB device stands on one of its ancestors: the first on the way up that has one. */
async function usbSerial(root: string, place: string): Promise<string> {
  for (let at = path.dirname(place); at.startsWith(root) && /\/usb\d+(\/|$)/.test(at); at = path.dirname(at)) {
    try {
      const text = (await readFile(path.join(at, 'serial'), 'utf8')).trim();
      if (text !== '') return text;
    } catch {
      // This ancestor has none: look at the next.
    }
  }
  return '';
}

async function serialOf(tree: Tree, root: string, bus: string, place: string): Promise<string> {
  if (bus === 'USB') return (await usbSerial(root, place)) || tree.vpd80();
  if (bus === 'virtio') return tree.text('serial');
  return (await tree.text('device/serial')) || (await tree.vpd80()) || tree.text('serial');
}

function kindOf(bus: string, rotational: boolean, removable: boolean, mmcType: string): MediumKind {
  if (bus === 'MMC') return mmcType === 'MMC' ? 'on-board' : 'card';
  if (bus === 'USB' && !rotational) return 'stick';
  if (bus === 'loop') return 'image';
  if (removable && bus !== 'SATA') return 'stick';
  return rotational ? 'disk' : 'solid-state';
}

/** `\040` and the like, as mountinfo writes blanks. */
function unescaped(text: string): string {
  return text.replace(/\\([0-7]{3})/g, (_, octal: string) => String.fromCharCode(parseInt(octal, 8)));
}

interface Uses {
  /** By major:minor. */
  readonly mounts: ReadonlyMap<string, readonly string[]>;
  /** Names of nodes that are swap. */
  readonly swaps: ReadonlySet<string>;
}

async function usesOf(root: string): Promise<Uses> {
  const read = async (name: string) => {
    try {
      return await readFile(path.join(root, 'proc', name), 'utf8');
    } catch {
      return '';
    }
  };
  const mounts = new Map<string, string[]>();
  for (const line of (await read('self/mountinfo')).split('\n')) {
    const [, , id, , point] = line.split(' ');
    if (id && point) mounts.set(id, [...(mounts.get(id) ?? []), unescaped(point)]);
  }
  const swaps = new Set(
    (await read('swaps'))
      .split('\n')
      .slice(1)
      .flatMap((line) => {
        const [node] = line.split(/\s+/);
        return node?.startsWith('/dev/') ? [path.basename(unescaped(node))] : [];
      }),
  );
  return { mounts, swaps };
}

/** Uses of a device and of its partitions, one level of holders deep. */
async function usedBy(tree: Tree, node: string, { mounts, swaps }: Uses): Promise<DeviceUse[]> {
  const parts = (await tree.names('')).filter((name) => name.startsWith(node));
  const uses: DeviceUse[] = [];
  for (const part of ['', ...parts]) {
    const name = part || node;
    const id = await tree.text(path.join(part, 'dev'));
    for (const point of mounts.get(id) ?? []) uses.push({ kind: 'mounted', node: name, by: point });
    if (swaps.has(name)) uses.push({ kind: 'swap', node: name, by: 'as swap' });
    for (const holder of await tree.names(path.join(part, 'holders')))
      uses.push({ kind: 'held', node: name, by: holder });
  }
  return uses;
}

async function holderText(root: string, use: DeviceUse): Promise<DeviceUse> {
  if (use.kind !== 'held') return use;
  try {
    const name = (await readFile(path.join(root, 'sys/block', use.by, 'dm/name'), 'utf8')).trim();
    const uuid = await readFile(path.join(root, 'sys/block', use.by, 'dm/uuid'), 'utf8').catch(() => '');
    const what = uuid.startsWith('LVM-') ? 'volume' : uuid.startsWith('CRYPT-') ? 'encryption' : 'mapping';
    return { ...use, by: `${what} ${name} (${use.by})` };
  } catch {
    return { ...use, by: use.by.startsWith('md') ? `RAID ${use.by}` : use.by };
  }
}

async function deviceAt(root: string, node: string, uses: Uses): Promise<Device | undefined> {
  const tree = new Tree(root, node);
  const size = (await tree.number('size')) * UNIT;
  const hasBacking = node.startsWith('loop') ? (await tree.text('loop/backing_file')) !== '' : true;
  if ((size === 0 && tree.unread.length === 0) || !hasBacking) return undefined;
  const place = await tree.place();
  const bus = busOf(node, place);
  const rotational = (await tree.number('queue/rotational')) === 1;
  const removable = (await tree.number('removable')) === 1;
  const logicalSector = (await tree.number('queue/logical_block_size')) || UNIT;
  const vendor = await tree.text('device/vendor');
  const model =
    (await tree.text('device/model')) || (await tree.text('device/name')) || (await tree.text('loop/backing_file'));
  const isVendorText = vendor !== '' && !/^(0x[0-9a-f]+|ATA)$/i.test(vendor);
  const found = await usedBy(tree, node, uses);
  return {
    key: node,
    node,
    simulated: false,
    kind: kindOf(bus, rotational, removable, await tree.text('device/type')),
    bus,
    size,
    logicalSector,
    physicalSector: (await tree.number('queue/physical_block_size')) || logicalSector,
    optimalIo: await tree.number('queue/optimal_io_size'),
    writeUnit: await tree.number('device/preferred_erase_size'),
    model: isVendorText ? `${vendor} ${model}`.trim() : model,
    serial: await serialOf(tree, root, bus, place),
    removable,
    readOnly: (await tree.number('ro')) === 1,
    uses: await Promise.all(found.map((use) => holderText(root, use))),
    unread: tree.unread,
  };
}

/** Devices that are memory and no medium. */
const MEMORY = /^(ram|zram)\d+$/;

/**
 * All block devices below `root`, which is the root of a running system but in tests, by name. Zero-size devices, loops
 * without a file and memory are left out. A device that vanishes while it is read is left out.
 */
export async function readDevices(root: string): Promise<Device[]> {
  let nodes: string[];
  try {
    nodes = await readdir(path.join(root, 'sys/block'));
  } catch {
    return [];
  }
  const uses = await usesOf(root);
  const wanted = nodes.filter((node) => !MEMORY.test(node)).sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  const devices = await Promise.all(wanted.map((node) => deviceAt(root, node, uses)));
  return devices.filter((one) => one !== undefined);
}
