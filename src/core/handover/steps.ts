/** How something is mounted by hand, step by step, with the real names, before the mount table has it. */
import { fieldsOf, inColumns, type MountLine, type Mounter, mounterOf } from '../naming/mount-table';
import type { MachineMedium } from '../naming/nameable';

export interface Step {
  readonly title: string;
  readonly why: string;
  readonly commands: readonly string[];
}

/** A word of a shell, whatever is in it. */
export function shellWord(text: string): string {
  return /^[\w./=:@%+,-]+$/.test(text) ? text : `'${text.replaceAll("'", "'\\''")}'`;
}

/** Options that mean something to a mount table alone. */
const TABLE_ONLY = /^(nofail|noauto|auto|defaults|_netdev|sw|x-.*|X-.*)$/;

function optionsText({ options }: MountLine): string {
  const own = options.map(({ text }) => text).filter((text) => !TABLE_ONLY.test(text));
  return own.length === 0 ? '' : `-o ${shellWord(own.join(','))} `;
}

/** Where a file system is mounted while its mount point still holds something. */
const MEANWHILE = '/mnt/meanwhile';

function inTable(line: MountLine, { hasSystemd }: Mounter): Step[] {
  return [
    {
      title: 'Now put it into the mount table',
      why: 'Only what was mounted by hand belongs there; a copy of the table is kept.',
      commands: [
        'cp -p /etc/fstab /etc/fstab.before',
        `echo ${shellWord(inColumns([fieldsOf(line)])[0]!)} >> /etc/fstab`,
      ],
    },
    ...(hasSystemd
      ? [
          {
            title: 'Have the table read anew',
            why: 'The service manager made its mounts of the table as it was before.',
            commands: ['systemctl daemon-reload'],
          },
        ]
      : []),
  ];
}

function swapSteps(line: MountLine, mounter: Mounter): Step[] {
  const source = shellWord(line.source.text);
  return [
    {
      title: 'Use it',
      why: 'Everything else stays as it is.',
      commands: [`swapon ${source}`],
    },
    { title: 'Look', why: 'Size, use and priority stand there.', commands: ['swapon --show', 'cat /proc/swaps'] },
    ...inTable(line, mounter),
    {
      title: 'To take it away',
      why: 'What is in it goes back into memory, which must have the room; this may take minutes.',
      commands: [`swapoff ${source}`],
    },
  ];
}

/** What the steps of a line are for. */
export function titleOf({ of, point }: MountLine, withMedium: boolean): string {
  const what = of.placed.slot.name + (withMedium ? ` of ${of.medium.name}` : '');
  return point.text === 'none' ? `${what}, for swap` : `${what}, at ${of.placed.slot.mount}`;
}

/** Steps for one line of a mount table. */
export function stepsFor(line: MountLine, media: readonly MachineMedium[]): Step[] {
  const mounter = mounterOf(media);
  if (line.point.text === 'none') return swapSteps(line, mounter);
  const { mount } = line.of.placed.slot;
  const point = shellWord(mount!);
  const source = shellWord(line.source.text);
  const type = line.type.text === 'auto' ? '' : `-t ${line.type.text} `;
  const call = (where: string) => `mount ${type}${optionsText(line)}${source} ${where}`;
  const keepsOwners = /^(ext|xfs|btrfs|f2fs|auto)/.test(line.type.text);
  if (mount === '/')
    return [
      {
        title: 'Mount it elsewhere to look at it',
        why: 'A running system cannot exchange its own root; the kernel mounts it at start.',
        commands: [`mkdir -p ${MEANWHILE}`, call(MEANWHILE), `ls ${MEANWHILE}`, `umount ${MEANWHILE}`],
      },
      {
        title: 'Put its line into the mount table on it',
        why: 'The table of the system that lies there, not of the one that runs now.',
        commands: [call(MEANWHILE), `echo ${shellWord(inColumns([fieldsOf(line)])[0]!)} >> ${MEANWHILE}/etc/fstab`],
      },
      { title: 'Unmount it', why: 'All is written then.', commands: [`umount ${MEANWHILE}`] },
    ];
  return [
    {
      title: 'Make the mount point',
      why: 'It stays as it is where it is there already.',
      commands: [`mkdir -p ${point}`],
    },
    {
      title: 'See that it is empty',
      why: 'A mount hides what is in its mount point; that goes on taking room, and nobody sees it.',
      commands: [`ls -A ${point}`],
    },
    {
      title: 'If it is not: move what it holds onto the new file system first',
      why: 'It is copied with owners, modes and links, compared, and only then taken away from the old place.',
      commands: [
        `mkdir -p ${MEANWHILE}`,
        call(MEANWHILE),
        `cp -a ${shellWord(`${mount!}/.`)} ${MEANWHILE}/`,
        `diff -r ${point} ${MEANWHILE}`,
        `find ${point} -mindepth 1 -delete`,
        `umount ${MEANWHILE}`,
      ],
    },
    { title: 'Mount it', why: line.warning ?? line.source.why, commands: [call(point)] },
    {
      title: 'Look',
      why: 'Source, type and options must be those that were meant, and the size that of the partition.',
      commands: [`findmnt ${point}`, `df -h ${point}`],
    },
    keepsOwners
      ? {
          title: 'Set owner and permissions',
          why: 'Those of the mount point do not count any more: those of the file system’s own root do.',
          commands: [`ls -ld ${point}`, `chown USER:GROUP ${point}`, `chmod 0755 ${point}`],
        }
      : {
          title: 'See owner and permissions',
          why: 'The file system keeps none: they follow from the options uid, gid and umask.',
          commands: [`ls -l ${point}`],
        },
    ...inTable(line, mounter),
    {
      title: 'Unmount it, and let the table mount it',
      why: 'So a mistake shows now, and not at the next start.',
      commands: [`umount ${point}`, `mount ${point}`],
    },
    {
      title: 'If it is busy when it is unmounted',
      why: 'Somebody has a file open there, or works in one of its folders. Waiting or ending those programs is right; a lazy unmount only hides it until then.',
      commands: [`cd /`, `fuser -vm ${point}`, `umount -l ${point}`],
    },
  ];
}

/** Steps that give the partitions of an image file devices of their own, and take them away. */
export function imageSteps({ placement }: MachineMedium, file: string): Step[] {
  const { sectorSize, layout } = placement;
  const name = shellWord(file);
  const hasTable = layout.table.kind !== 'none';
  const size = `--sector-size ${sectorSize} `;
  return [
    {
      title: 'Attach it',
      why: `Its sectors have ${sectorSize} bytes${hasTable ? ', and the kernel is told to read its table' : ''}; the name of the device is printed.`,
      commands: [`losetup --find --show ${hasTable ? '--partscan ' : ''}${size}${name}`],
    },
    {
      title: 'Look',
      why: 'Partitions, file systems and ids as the kernel sees them; for /dev/loop0 stands what was printed.',
      commands: ['lsblk -o NAME,SIZE,FSTYPE,LABEL,UUID,PARTUUID /dev/loop0'],
    },
    {
      title: 'Detach it',
      why: 'Unmount what is mounted of it first.',
      commands: ['losetup --detach /dev/loop0'],
    },
  ];
}
