/**
 * Options of mounts, by file system: those that mount(8) has for all, what a service manager reads behind
 * `x-systemd.`, and those of each file system, from the kernel's documentation (Documentation/filesystems
 * and Documentation/admin-guide) and, where that is silent, from mount(8) or the system's own page.
 *
 * One word an option. Behind `=` stands what its value may be: `n` a number, `octal`, `id` a user or group by number
 * or name, `size` a number with a unit, `text`, or words with `/` between them; in brackets, where it may be missing.
 */

interface OptionsOf {
  readonly source: string;
  readonly words: string;
}

const GENERAL: OptionsOf = {
  source: 'mount(8), fstab(5)',
  words: `async sync atime noatime auto noauto defaults dev nodev diratime nodiratime dirsync exec noexec group nogroup
    iversion noiversion mand nomand _netdev nofail relatime norelatime strictatime nostrictatime lazytime nolazytime
    suid nosuid silent loud owner noowner remount ro rw user[=text] nouser users nousers nosymfollow symfollow
    bind rbind private rprivate shared rshared slave rslave unbindable runbindable move comment=text
    context=text fscontext=text defcontext=text rootcontext=text loop[=text] offset=size sizelimit=size encryption=text
    helper=text uhelper=text verity.roothash=text verity.hashdevice=text`,
};

const MANAGED: OptionsOf = {
  source: 'systemd.mount(5), systemd.swap(5)',
  words: `x-systemd.requires=text x-systemd.before=text x-systemd.after=text x-systemd.wanted-by=text
    x-systemd.required-by=text x-systemd.requires-mounts-for=text x-systemd.wants-mounts-for=text
    x-systemd.device-bound[=text] x-systemd.automount x-systemd.idle-timeout=text x-systemd.device-timeout=text
    x-systemd.mount-timeout=text x-systemd.makefs x-systemd.growfs x-systemd.pcrfs x-systemd.rw-only x-initrd.mount
    x-initrd.attach X-mount.mkdir[=text] X-mount.subdir=text X-mount.idmap=text X-mount.owner=text X-mount.group=text
    X-mount.mode=octal x-mount.mkdir[=text] x-gvfs-show x-gvfs-hide x-gvfs-name=text x-gvfs-icon=text
    X-systemd.makefs`,
};

const FAT: OptionsOf = {
  source: 'Documentation/filesystems/vfat.rst; mount(8), fat and vfat',
  words: `uid=id gid=id umask=octal dmask=octal fmask=octal allow_utime=octal codepage=n iocharset=text utf8[=text]
    uni_xlate[=text] nonumtail[=text] posix usefree quiet check=s/r/n/strict/relaxed/normal nocase
    shortname=lower/win95/winnt/mixed tz=UTC time_offset=n showexec debug sys_immutable flush rodir
    errors=panic/continue/remount-ro discard nfs[=stale_rw/nostale_ro] dos1xfloppy`,
};

const EXT2: OptionsOf = {
  source: 'Documentation/filesystems/ext2.rst',
  words: `bsddf minixdf check=none nocheck dax[=text] debug errors=continue/remount-ro/panic grpid bsdgroups nogrpid
    sysvgroups nouid32 oldalloc orlov resuid=n resgid=n sb=n user_xattr acl quota usrquota grpquota
    noquota reservation noreservation`,
};

/** Since Linux 6.1 neither knows `noacl` and `nouser_xattr` any more. */
const EXT3: OptionsOf = {
  source: 'Documentation/admin-guide/ext4.rst; ext4(5)',
  words: `${EXT2.words} norecovery noload data=journal/ordered/writeback commit=n barrier[=0/1] nobarrier journal_path=text
    journal_dev=text inode_readahead_blks=n abort data_err=ignore/abort jqfmt=vfsold/vfsv0/vfsv1 usrjquota[=text]
    grpjquota[=text] stripe=n max_batch_time=n min_batch_time=n journal_ioprio=n auto_da_alloc[=0/1] noauto_da_alloc
    noinit_itable init_itable[=n] discard nodiscard block_validity noblock_validity max_dir_size_kb=n i_version
    inlinecrypt nombcache no_mbcache mb_optimize_scan=0/1 prefetch_block_bitmaps no_prefetch_block_bitmaps nolazytime`,
};

/** What the kernel takes of ext4 alone: its extents, and sums in its journal. */
const EXT4: OptionsOf = {
  source: EXT3.source,
  words: `${EXT3.words} journal_checksum nojournal_checksum journal_async_commit delalloc nodelalloc dioread_lock
    dioread_nolock prjquota`,
};

const SPECIFIC: Readonly<Record<string, OptionsOf>> = {
  vfat: FAT,
  msdos: { source: FAT.source, words: `${FAT.words} dots nodots` },
  exfat: {
    source: 'the kernel’s fs/exfat; its own page in mount(8) is missing',
    words: `uid=id gid=id umask=octal dmask=octal fmask=octal allow_utime=octal iocharset=text utf8
      errors=continue/panic/remount-ro discard keep_last_dots sys_tz time_offset=n namecase=n codepage=n
      debug`,
  },
  ext2: EXT2,
  ext3: EXT3,
  ext4: EXT4,
  xfs: {
    source: 'Documentation/admin-guide/xfs.rst; xfs(5)',
    words: `allocsize=size attr2 noattr2 dax[=text] discard nodiscard grpid bsdgroups nogrpid sysvgroups filestreams
      ikeep noikeep inode32 inode64 largeio nolargeio logbufs=n logbsize=size logdev=text rtdev=text noalign norecovery
      nouuid noquota uquota usrquota quota uqnoenforce qnoenforce gquota grpquota gqnoenforce pquota prjquota
      pqnoenforce sunit=n swidth=n swalloc wsync`,
  },
  btrfs: {
    source: 'btrfs(5); the kernel’s fs/btrfs',
    words: `acl noacl autodefrag noautodefrag barrier nobarrier check_int check_int_data check_int_print_mask=n
      clear_cache nospace_cache space_cache[=v1/v2] commit=n compress[=text] compress-force[=text] datacow nodatacow
      datasum nodatasum degraded device=text discard[=sync/async] nodiscard enospc_debug noenospc_debug
      fatal_errors=bug/panic flushoncommit noflushoncommit fragment=text logreplay nologreplay max_inline=size
      metadata_ratio=n rescan_uuid_tree skip_balance nossd ssd ssd_spread nossd_spread subvol=text subvolid=n
      thread_pool=n treelog notreelog user_subvol_rm_allowed norecovery rescue=text usebackuproot`,
  },
  f2fs: {
    source: 'Documentation/filesystems/f2fs.rst',
    words: `background_gc=on/off/sync gc_merge nogc_merge disable_roll_forward norecovery discard nodiscard no_heap heap
      user_xattr nouser_xattr acl noacl active_logs=n disable_ext_identify inline_xattr noinline_xattr
      inline_xattr_size=n inline_data noinline_data inline_dentry noinline_dentry flush_merge noflush_merge barrier
      nobarrier fastboot extent_cache noextent_cache age_extent_cache data_flush reserve_root=n reserve_node=n resuid=n
      resgid=n fault_injection=n fault_type=n mode=adaptive/lfs/fragment:segment/fragment:block usrquota grpquota
      prjquota usrjquota=text grpjquota=text prjjquota=text jqfmt=vfsold/vfsv0/vfsv1 quota noquota
      alloc_mode=default/reuse fsync_mode=posix/strict/nobarrier test_dummy_encryption[=text] checkpoint=text
      checkpoint_merge nocheckpoint_merge compress_algorithm=text compress_log_size=n compress_extension=text
      nocompress_extension=text compress_chksum compress_mode=fs/user compress_cache inlinecrypt atgc
      discard_unit=block/segment/section memory=normal/low errors=remount-ro/continue/panic whint_mode=text
      io_bits=n extent_cache`,
  },
  ntfs3: {
    source: 'Documentation/filesystems/ntfs3.rst',
    words: `iocharset=text nls=text uid=id gid=id umask=octal dmask=octal fmask=octal noacsrules acsrules nohidden hidden
      sys_immutable nosys_immutable discard nodiscard force noforce sparse nosparse showmeta noshowmeta prealloc
      noprealloc acl noacl windows_names hide_dot_files nocase`,
  },
  iso9660: {
    source: 'Documentation/filesystems/isofs.rst; mount(8), iso9660',
    words: `norock nojoliet check=r/s/relaxed/strict uid=id gid=id map=n/o/a/normal/off/acorn mode=octal dmode=octal
      unhide showassoc block=512/1024/2048 conv=text cruft hide session=n sbsector=n iocharset=text utf8 nocompress
      overriderockperm`,
  },
  udf: {
    source: 'Documentation/filesystems/udf.rst; mount(8), udf',
    words: `uid=id gid=id umask=octal mode=octal dmode=octal bs=n unhide undelete adinicb noadinicb shortad longad
      nostrict iocharset=text utf8 novrs session=n anchor=n lastblock=n`,
  },
  squashfs: { source: 'Documentation/filesystems/squashfs.rst', words: 'errors=continue/panic threads=text' },
  erofs: {
    source: 'Documentation/filesystems/erofs.rst',
    words: `user_xattr nouser_xattr acl noacl cache_strategy=disabled/readahead/readaround dax[=always/never]
      device=text fsid=text domain_id=text`,
  },
  hfsplus: {
    source: 'Documentation/filesystems/hfsplus.rst',
    words: `creator=text type=text uid=id gid=id umask=octal session=n part=n decompose nodecompose force nls=text
      barrier nobarrier`,
  },
  ufs: {
    source: 'mount(8), ufs',
    words: `ufstype=old/44bsd/ufs2/5xbsd/sun/sunx86/hp/nextstep/nextstep-cd/openstep
      onerror=panic/lock/umount/repair`,
  },
  tmpfs: {
    source: 'Documentation/filesystems/tmpfs.rst; tmpfs(5)',
    words: `size=size nr_blocks=size nr_inodes=size mode=octal uid=id gid=id huge=never/always/within_size/advise
      mpol=text inode32 inode64 noswap`,
  },
  swap: {
    source: 'swapon(8), fstab(5)',
    words: 'sw pri=n discard[=once/pages] nofail noauto auto defaults',
  },
  overlay: {
    source: 'Documentation/filesystems/overlayfs.rst; mount(8), overlay',
    words: `lowerdir=text upperdir=text workdir=text userxattr redirect_dir=on/off/follow/nofollow index=on/off
      uuid=on/off nfs_export=on/off xino=on/off/auto metacopy=on/off volatile`,
  },
  proc: {
    source: 'Documentation/filesystems/proc.rst',
    words: 'hidepid=0/1/2/4/off/noaccess/invisible/ptraceable gid=id subset=pid',
  },
  devpts: {
    source: 'Documentation/filesystems/devpts.rst; mount(8), devpts',
    words: 'uid=id gid=id mode=octal newinstance ptmxmode=octal max=n',
  },
};

/** File systems of which the options are not known here: kernels and helpers of their own read them. */
const UNKNOWN = [
  'auto',
  'none',
  'nfs',
  'nfs4',
  'cifs',
  'smb3',
  'fuse',
  'fuseblk',
  'sysfs',
  'devtmpfs',
  'cgroup',
  'cgroup2',
  'debugfs',
  'tracefs',
  'securityfs',
  'pstore',
  'efivarfs',
  'bpf',
  'configfs',
  'mqueue',
  'hugetlbfs',
  'ramfs',
  'rootfs',
  'autofs',
  'binfmt_misc',
  'rpc_pipefs',
  'nfsd',
  'ceph',
  '9p',
  'virtiofs',
  'glusterfs',
  'ecryptfs',
  'jfs',
  'reiserfs',
  'nilfs2',
  'minix',
  'hfs',
  'hpfs',
  'affs',
  'adfs',
  'bfs',
  'qnx4',
  'qnx6',
  'romfs',
  'cramfs',
  'jffs2',
  'ubifs',
  'ocfs2',
  'gfs2',
  'zonefs',
  'zfs',
  'bcachefs',
  'apfs',
  'ntfs',
  'davfs',
  'sshfs',
  'ignore',
];

/** What the value of an option may be. */
export type OptionValue = 'none' | 'n' | 'octal' | 'id' | 'size' | 'text' | readonly string[];

export interface MountOption {
  readonly name: string;
  readonly value: OptionValue;
  /** It can stand without its value. */
  readonly isOptional: boolean;
  readonly source: string;
}

const PLAIN: readonly string[] = ['n', 'octal', 'id', 'size', 'text'];

function optionOf(word: string, source: string): MountOption {
  const [, name, optional, value] = /^([^=[]+)(\[?)(?:=([^\]]+))?\]?$/.exec(word)!;
  const kind = value === undefined ? 'none' : PLAIN.includes(value) ? (value as OptionValue) : value.split('/');
  return { name: name!, value: kind, isOptional: optional === '[' || value === undefined, source };
}

function read(...lists: readonly OptionsOf[]): ReadonlyMap<string, MountOption> {
  const words = lists.flatMap(({ source, words: text }) => text.split(/\s+/).map((word) => optionOf(word, source)));
  // What a file system says of itself goes ahead of what goes for all.
  return new Map([...words].reverse().map((one) => [one.name, one]));
}

const KNOWN = new Map<string, ReadonlyMap<string, MountOption>>();

/** The options of a file system, those of all among them; undefined where they are not known. */
export function optionsOf(type: string): ReadonlyMap<string, MountOption> | undefined {
  const own = Object.hasOwn(SPECIFIC, type) ? SPECIFIC[type] : undefined;
  if (!own) return undefined;
  const known = KNOWN.get(type) ?? read(own, GENERAL, MANAGED);
  KNOWN.set(type, known);
  return known;
}

/** File systems whose options are known, and others that kernels or helpers know. */
const DESCRIBED_TYPES: readonly string[] = Object.keys(SPECIFIC);
export const KNOWN_TYPES: readonly string[] = [...DESCRIBED_TYPES, ...UNKNOWN];

let OWNERS: readonly (readonly [string, ReadonlyMap<string, MountOption>])[] | undefined;

/** The options that a file system has of its own, those for all left out. */
export function ownOptionsOf(type: string): readonly MountOption[] {
  return [...read(SPECIFIC[type]!).values()];
}

/** File systems that know an option of this name beside those for all. */
export function typesWith(option: string): readonly string[] {
  OWNERS ??= DESCRIBED_TYPES.map((type) => [type, read(SPECIFIC[type]!)] as const);
  return OWNERS.filter(([, own]) => own.has(option)).map(([type]) => type);
}
