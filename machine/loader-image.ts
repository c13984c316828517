/** What U-Boot wants around a kernel and a RAM disk; its documentation calls them "FIT" and "legacy image". */
import { crc32 } from '@/core/bytes/crc32';

const LEGACY_MAGIC = 0x27051956;
const LINUX = 5;
const I386 = 3;
const RAM_DISK = 3;
const UNCOMPRESSED = 0;

/** A RAM disk behind a header of 64 big-endian bytes. It is put where there is room. */
export function ramDiskImage(data: Uint8Array): Buffer {
  const header = Buffer.alloc(64);
  [LEGACY_MAGIC, 0, 0, data.length, 0, 0, crc32(data)].forEach((word, i) => header.writeUInt32BE(word >>> 0, 4 * i));
  header.set([LINUX, I386, RAM_DISK, UNCOMPRESSED], 28);
  header.write('gauge RAM disk', 32, 'latin1');
  header.writeUInt32BE(crc32(header) >>> 0, 4);
  return Buffer.concat([header, data]);
}

/** A node of a device tree: its properties and the nodes below it, by name. A number is one cell. */
interface DeviceNode {
  readonly [name: string]: string | number | Uint8Array | DeviceNode;
}

const TREE_MAGIC = 0xd00dfeed;
const TREE_HEADER = 40;
const [BEGIN_NODE, END_NODE, PROPERTY, END] = [1, 2, 3, 9];

function cells(...values: readonly number[]): Buffer {
  const out = Buffer.alloc(4 * values.length);
  values.forEach((value, i) => out.writeUInt32BE(value, 4 * i));
  return out;
}
const padded = (bytes: Uint8Array) => Buffer.concat([bytes, Buffer.alloc(-bytes.length & 3)]);
const text = (value: string) => Buffer.from(`${value}\0`);

/** A device tree as a blob (Devicetree Specification, "Flattened Devicetree (DTB) Format"). */
function deviceTree(root: DeviceNode): Buffer {
  let names = Buffer.alloc(0);
  const nameAt = (name: string) => {
    const known = names.indexOf(text(name));
    if (known >= 0) return known;
    names = Buffer.concat([names, text(name)]);
    return names.length - name.length - 1;
  };
  const property = (name: string, value: string | number | Uint8Array) => {
    const bytes = typeof value === 'string' ? text(value) : typeof value === 'number' ? cells(value) : value;
    return Buffer.concat([cells(PROPERTY, bytes.length, nameAt(name)), padded(bytes)]);
  };
  const node = (name: string, entries: DeviceNode): Buffer => {
    const parts = Object.entries(entries).map(([key, value]) =>
      typeof value === 'object' && !(value instanceof Uint8Array) ? node(key, value) : property(key, value),
    );
    return Buffer.concat([cells(BEGIN_NODE), padded(text(name)), ...parts, cells(END_NODE)]);
  };
  const structure = Buffer.concat([node('', root), cells(END)]);
  const reserved = Buffer.alloc(16);
  const structureAt = TREE_HEADER + reserved.length;
  const namesAt = structureAt + structure.length;
  const size = namesAt + names.length;
  const version = [17, 16, 0];
  const header = cells(TREE_MAGIC, size, structureAt, namesAt, TREE_HEADER, ...version, names.length, structure.length);
  return Buffer.concat([header, reserved, structure, names]);
}

/** Where the parameters of a kernel lie, below the first MiB. */
const SETUP_AT = 0x90000;
/** Where the 64-bit code of a kernel is entered (the kernel's documentation, "The Linux/x86 Boot Protocol"). */
const ENTRY = 0x200;

/**
 * A kernel, in the two parts that it has by its boot protocol: the setup, and the code, which is put at `at`.
 * What lies before the entry is for processors in another mode, and left out: this loader jumps to where code begins.
 */
export function kernelImage(kernel: Buffer, at: number): Buffer {
  const setupBytes = (kernel[0x1f1]! + 1) * 512;
  const part = (type: string, arch: string, data: Buffer, load: number) => ({
    description: type,
    data,
    type,
    arch,
    os: 'linux',
    compression: 'none',
    load,
    entry: load,
  });
  return deviceTree({
    description: 'gauge',
    timestamp: 0,
    '#address-cells': 1,
    images: {
      kernel: part('kernel', 'x86_64', kernel.subarray(setupBytes + ENTRY), at + ENTRY),
      setup: part('x86_setup', 'x86', kernel.subarray(0, setupBytes), SETUP_AT),
    },
    configurations: {
      default: 'gauge',
      gauge: { description: 'gauge', kernel: 'kernel', setup: 'setup' },
    },
  });
}
