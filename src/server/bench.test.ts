import {
  chmodSync,
  mkdirSync,
  mkdtempSync,
  rmSync,
  symlinkSync,
  truncateSync,
  unlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Device } from '@/core/medium/device';
import { lookalikes, mediumOfDevice } from '@/core/medium/device';
import { GET as getBench } from '@/app/api/bench/route';
import { benchDevice, listBench } from './bench';
import { type Context, installContext, openContext } from './context';
import { surveyImage } from './surveys';
import { addSimulatedMedia } from './simulated-media';
import { readDevices } from './sysfs';

let root: string;

beforeEach(() => {
  root = mkdtempSync(path.join(tmpdir(), 'loess-bench-'));
});
afterEach(() => rmSync(root, { recursive: true, force: true }));

function put(name: string, content: string | Buffer): void {
  const file = path.join(root, name);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, content);
}

/** A device: its directory in the tree of devices, linked from /sys/block as the kernel does. */
function device(node: string, place: string, files: Readonly<Record<string, string | Buffer>>): void {
  const real = `sys/devices/${place}/block/${node}`;
  mkdirSync(path.join(root, real), { recursive: true });
  for (const [name, content] of Object.entries(files))
    put(name.startsWith('..') ? path.join(real, name) : `${real}/${name}`, content);
  mkdirSync(path.join(root, 'sys/block'), { recursive: true });
  symlinkSync(path.join('..', '..', real), path.join(root, 'sys/block', node));
}

const queue = (logical: number, physical: number, rotational = 0, optimal = 0) => ({
  'queue/logical_block_size': `${logical}\n`,
  'queue/physical_block_size': `${physical}\n`,
  'queue/rotational': `${rotational}\n`,
  'queue/optimal_io_size': `${optimal}\n`,
});

const only = async (node: string): Promise<Device> => (await readDevices(root)).find((one) => one.node === node)!;

/** A page of the unit serial number: header, then text. */
function vpd(serial: string): Buffer {
  return Buffer.concat([Buffer.from([0, 0x80, 0, serial.length]), Buffer.from(serial)]);
}

describe('reading made-up trees', () => {
  test('NVMe: model and serial from the controller', async () => {
    device('nvme0n1', 'pci0000:00/0000:00:1d.0/nvme/nvme0', {
      size: '500118192\n',
      removable: '0\n',
      ro: '0\n',
      dev: '259:0\n',
      ...queue(512, 4096),
      'device/model': 'Marram Store 256                        \n',
      'device/serial': 'MCT-0007-A          \n',
    });
    expect(await only('nvme0n1')).toEqual({
      key: 'nvme0n1',
      node: 'nvme0n1',
      simulated: false,
      kind: 'solid-state',
      bus: 'NVMe',
      size: 256_060_514_304,
      logicalSector: 512,
      physicalSector: 4096,
      optimalIo: 0,
      writeUnit: 0,
      model: 'Marram Store 256',
      serial: 'MCT-0007-A',
      removable: false,
      readOnly: false,
      uses: [],
      unread: [],
    });
  });

  test('SATA: the serial from its page, sizes in 512 whatever the sectors, partitions mounted and swap', async () => {
    device('sda', 'pci0000:00/0000:00:17.0/ata1/host0/target0:0:0/0:0:0:0', {
      size: '7814037168\n',
      dev: '8:0\n',
      ...queue(4096, 4096, 1),
      'device/vendor': 'ATA     \n',
      'device/model': 'Vault 4000      \n',
      'device/vpd_pg80': vpd('  MCT-0142'),
      'sda1/dev': '8:1\n',
      'sda2/dev': '8:2\n',
      'sda2/holders/x': '',
    });
    put(
      'proc/self/mountinfo',
      '22 1 8:1 / /srv/tide\\040data rw - ext4 /dev/sda1 rw\n23 1 0:21 / /proc rw - proc proc rw\n',
    );
    put('proc/swaps', 'Filename Type Size Used Priority\n/dev/sda2 partition 8 0 -2\n');
    expect(await only('sda')).toMatchObject({
      kind: 'disk',
      bus: 'SATA',
      size: 4_000_787_030_016,
      logicalSector: 4096,
      model: 'Vault 4000',
      serial: 'MCT-0142',
      uses: [
        { kind: 'mounted', node: 'sda1', by: '/srv/tide data' },
        { kind: 'swap', node: 'sda2', by: 'as swap' },
        { kind: 'held', node: 'sda2', by: 'x' },
      ],
    });
  });

  test('USB: the serial of the nearest ancestor that has one, a bridge’s odd optimal size kept', async () => {
    const place = 'pci0000:00/usb2/2-1/2-1.4/2-1.4:1.0/host6/target6:0:0/6:0:0:0';
    device('sdb', place, {
      size: '60620800\n',
      removable: '1\n',
      dev: '8:16\n',
      ...queue(512, 512, 0, 33_553_920),
      'device/vendor': 'Pier\n',
      'device/model': 'Stick\n',
    });
    put('sys/devices/pci0000:00/usb2/serial', 'of the hub\n');
    put('sys/devices/pci0000:00/usb2/2-1/2-1.4/serial', 'MCT-0311\n');
    expect(await only('sdb')).toMatchObject({
      kind: 'stick',
      bus: 'USB',
      serial: 'MCT-0311',
      model: 'Pier Stick',
      removable: true,
      optimalIo: 33_553_920,
    });
  });

  test('MMC: a card, and on-board flash, with its erase size and its name as model', async () => {
    device('mmcblk0', 'platform/mmc0/mmc0:0001', {
      size: '15523840\n',
      ...queue(512, 512),
      'device/type': 'SD\n',
      'device/name': 'GAUGE\n',
      'device/serial': '0x6d617272\n',
      'device/preferred_erase_size': '4194304\n',
    });
    device('mmcblk1', 'platform/mmc1/mmc1:0001', {
      size: '15523840\n',
      ...queue(512, 512),
      'device/type': 'MMC\n',
      'device/name': 'GAUGE\n',
    });
    expect(await only('mmcblk0')).toMatchObject({
      kind: 'card',
      bus: 'MMC',
      model: 'GAUGE',
      serial: '0x6d617272',
      writeUnit: 4_194_304,
    });
    expect(await only('mmcblk1')).toMatchObject({ kind: 'on-board' });
  });

  test('virtio: the serial beside the queue', async () => {
    device('vda', 'pci0000:00/0000:00:04.0/virtio1', {
      size: '2097152\n',
      ...queue(512, 512, 1),
      serial: 'MCT-V1',
      ro: '1\n',
    });
    expect(await only('vda')).toMatchObject({ bus: 'virtio', serial: 'MCT-V1', kind: 'disk', readOnly: true });
  });

  test('loops with a file, not those without; memory and empty devices are no media', async () => {
    device('loop0', 'virtual', { size: '2048\n', ...queue(512, 512), 'loop/backing_file': '/tide/buoy.img\n' });
    device('loop1', 'virtual', { size: '0\n', ...queue(512, 512) });
    device('ram0', 'virtual', { size: '8192\n' });
    device('zram0', 'virtual', { size: '8192\n' });
    device('sr0', 'virtual', { size: '0\n' });
    expect((await readDevices(root)).map((one) => [one.node, one.kind, one.model])).toEqual([
      ['loop0', 'image', '/tide/buoy.img'],
    ]);
  });

  test('a holder is named: encryption, a volume, RAID', async () => {
    device('sdc', 'pci0000:00/ata2/host1/target1:0:0/1:0:0:0', {
      size: '4096\n',
      dev: '8:32\n',
      ...queue(512, 512),
      'sdc1/dev': '8:33\n',
      'sdc1/holders/dm-0': '',
      'sdc1/holders/dm-1': '',
      'holders/md127': '',
    });
    put('sys/block/dm-0/dm/name', 'tidelog\n');
    put('sys/block/dm-0/dm/uuid', 'CRYPT-LUKS2-tide\n');
    put('sys/block/dm-1/dm/name', 'pool-data\n');
    put('sys/block/dm-1/dm/uuid', 'LVM-tide\n');
    expect((await only('sdc')).uses.map((use) => [use.node, use.by])).toEqual([
      ['sdc', 'RAID md127'],
      ['sdc1', 'encryption tidelog (dm-0)'],
      ['sdc1', 'volume pool-data (dm-1)'],
    ]);
  });

  /** Does something without the rights of an administrator, who may read everything. */
  async function asOrdinaryUser<T>(work: () => Promise<T>): Promise<T> {
    if (process.geteuid!() !== 0) return work();
    chmodSync(root, 0o755);
    process.seteuid!(65_534);
    return work().finally(() => process.seteuid!(0));
  }

  test('missing files leave gaps, not errors; an unreadable one is said', async () => {
    device('sdd', 'pci0000:00/ata3/host2/target2:0:0/2:0:0:0', { size: '4096\n' });
    // A directory where a file should be cannot be read, whoever asks.
    mkdirSync(path.join(root, 'sys/block/sdd/device/serial'), { recursive: true });
    expect(await only('sdd')).toMatchObject({
      model: '',
      serial: '',
      logicalSector: 512,
      physicalSector: 512,
      unread: ['device/serial: EISDIR'],
    });
    chmodSync(path.join(root, 'sys/block/sdd/size'), 0);
    expect((await asOrdinaryUser(() => only('sdd'))).unread).toContain('size: permission denied');
  });

  test('a system without sysfs has an empty bench', async () => {
    expect(await readDevices(path.join(root, 'nowhere'))).toEqual([]);
  });

  test('names are in the order that people count', async () => {
    for (const node of ['sda', 'nvme10n1', 'nvme2n1']) device(node, `virtual/${node}`, { size: '8\n' });
    expect((await readDevices(root)).map((one) => one.node)).toEqual(['nvme2n1', 'nvme10n1', 'sda']);
  });
});

const plain: Device = {
  key: 'a',
  node: 'sda',
  simulated: false,
  kind: 'disk',
  bus: 'SATA',
  size: 4_000_787_030_016,
  logicalSector: 512,
  physicalSector: 4096,
  optimalIo: 0,
  writeUnit: 0,
  model: 'Vault',
  serial: 'S1',
  removable: false,
  readOnly: false,
  uses: [],
  unread: [],
};

describe('lookalikes', () => {
  test('what differs is said, of those that look the same and of no others', () => {
    const other = {
      ...plain,
      key: 'b',
      node: 'sdb',
      serial: '',
      uses: [{ kind: 'mounted', node: 'sdb1', by: '/srv' }] as const,
    };
    const third = { ...plain, key: 'c', node: 'sdc', model: 'Other' };
    expect([...lookalikes([plain, other, third])]).toEqual([
      ['a', ['serial S1', 'use not in use', 'name now sda']],
      ['b', ['serial not known', 'use mounted /srv', 'name now sdb']],
    ]);
  });

  test('a device becomes a medium, or says why not', () => {
    expect(mediumOfDevice(plain)).toMatchObject({
      kind: 'disk',
      capacity: plain.size,
      logicalSector: 512,
      physicalSector: 4096,
    });
    expect(mediumOfDevice({ ...plain, physicalSector: 16_384 })).toMatchObject({ physicalSector: 4096 });
    expect(mediumOfDevice({ ...plain, logicalSector: 520 })).toMatch(/520 bytes/);
    expect(mediumOfDevice({ ...plain, size: 0 })).toMatch(/size could not be read/);
  });
});

describe('the bench of a server', () => {
  let context: Context;
  beforeEach(async () => {
    context = await openContext({
      data: path.join(root, 'data'),
      devices: () => readDevices(path.join(root, 'system')),
    });
    await addSimulatedMedia(context, 'demo/bench');
  });
  afterEach(() => context.close());

  test('simulated media are sparse files beside their descriptions; two of them look alike', async () => {
    const { media } = await listBench(context);
    expect(media).toHaveLength(5);
    expect(
      media.every(({ device: one, refused }) => one.simulated && refused === null && one.unread.length === 0),
    ).toBe(true);
    const twins = media.filter(({ device: one }) => one.model === 'Marram Store 256');
    expect(twins.map((one) => one.distinctions[0])).toEqual(['serial MCT-0007-A', 'serial MCT-0007-B']);
    const { survey } = await surveyImage(context, { of: 'bench:gauge-card' });
    expect(survey).toMatchObject({ table: 'none', size: 7_948_206_080 });
  });

  test('they are added once, and keep what was written into them', async () => {
    truncateSync(path.join(context.folder.bench, 'gauge-card.img'), 4096);
    await addSimulatedMedia(context, 'demo/bench');
    expect((await benchDevice(context, 'simulated:gauge-card')).size).toBe(4096);
  });

  test('a damaged description or a lost file is shown as such', async () => {
    writeFileSync(path.join(context.folder.bench, 'gauge-card.json'), '{');
    unlinkSync(path.join(context.folder.bench, 'service-stick.img'));
    const { media } = await listBench(context);
    const [card, stick] = ['gauge-card', 'service-stick'].map((name) =>
      media.find(({ device: one }) => one.key === `simulated:${name}`)!,
    );
    expect(card).toMatchObject({ device: { unread: ['description: is not JSON'], model: 'gauge-card' } });
    expect(stick).toMatchObject({
      device: { unread: ['file: is missing or empty'] },
      refused: 'Its size could not be read.',
    });
  });

  test('one that vanished is refused with what to do; names do not lead elsewhere', async () => {
    await expect(benchDevice(context, 'sdz')).rejects.toMatchObject({
      status: 404,
      message: expect.stringMatching(/unplugged/) as string,
    });
    await expect(surveyImage(context, { of: 'bench:../loess' })).rejects.toMatchObject({
      status: 400,
      code: 'medium-name-refused',
    });
  });

  test('the route answers with the bench', async () => {
    installContext(context);
    const answer = (await (await getBench()).json()) as { media: unknown[] };
    expect(answer.media).toHaveLength(5);
  });
});
