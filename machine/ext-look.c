/*
 * Runs in the guest: mounts an ext volume, tells what the kernel says of it, uses it, fills it, grows it,
 * and looks again. One "@fact NAME=VALUE" line for each fact; see ext.ts for what is made of them.
 *
 * ext-look DEVICE TYPE WORK, where WORK holds some of: u use, f fill to the last block, i fill to the last
 * inode, g grow to the end of the device, l list every entry, n without filling inode tables with zeros.
 */
#define _GNU_SOURCE
#include <dirent.h>
#include <errno.h>
#include <stdarg.h>
#include <fcntl.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/mount.h>
#include <sys/stat.h>
#include <sys/statfs.h>
#include <sys/statvfs.h>
#include <sys/sysmacros.h>
#include <sys/xattr.h>
#include <unistd.h>
#include <linux/fs.h>

#define EXT4_IOC_RESIZE_FS _IOW('f', 16, uint64_t)
#define ROOT "/mnt"

static uint32_t table[256];
static int lists;
static uint64_t digest, still;
static uint64_t count;
static char *line;
static size_t lineSize, lineUsed;

static uint32_t crc(uint32_t c, const unsigned char *bytes, size_t length) {
  c = ~c;
  for (size_t i = 0; i < length; i++) c = table[(c ^ bytes[i]) & 255] ^ (c >> 8);
  return ~c;
}

static void say(const char *text, size_t length) {
  if (lineUsed + length + 1 > lineSize) line = realloc(line, lineSize = 2 * (lineUsed + length + 1));
  memcpy(line + lineUsed, text, length);
  lineUsed += length;
}

static void sayf(const char *format, ...) {
  char text[8192];
  va_list list;
  va_start(list, format);
  int length = vsnprintf(text, sizeof text, format, list);
  va_end(list);
  say(text, length);
}

static void sayHex(const unsigned char *bytes, size_t length) {
  for (size_t i = 0; i < length; i++) sayf("%02x", bytes[i]);
}

/* Every byte that is not plain goes as \xHH, so that lines stay lines. */
static void sayName(const char *name) {
  for (; *name; name++) {
    unsigned char c = *name;
    if (c <= ' ' || c >= 127 || c == '\\') sayf("\\x%02x", c);
    else say(name, 1);
  }
}

static int byText(const void *a, const void *b) { return strcmp(*(char *const *)a, *(char *const *)b); }

static void attributes(const char *path) {
  static char names[65536];
  static unsigned char value[65536];
  ssize_t length = llistxattr(path, names, sizeof names);
  char *all[1024];
  int many = 0;
  for (ssize_t at = 0; at < length && many < 1024; at += strlen(names + at) + 1) all[many++] = names + at;
  qsort(all, many, sizeof *all, byText);
  for (int i = 0; i < many; i++) {
    ssize_t size = lgetxattr(path, all[i], value, sizeof value);
    sayf(" %s:", all[i]);
    if (size < 0) sayf("!%d", errno);
    else sayHex(value, size);
  }
}

/* What is stored of a file: its sum, and where it has holes. */
static void content(const char *path, off_t size) {
  static unsigned char bytes[1 << 16];
  int file = open(path, O_RDONLY);
  if (file < 0) {
    sayf(" unreadable");
    return;
  }
  /* What was read before, by another name of it too, lies in the cache, and would be told as data. */
  posix_fadvise(file, 0, 0, POSIX_FADV_DONTNEED);
  static char data[1 << 16];
  size_t used = 0;
  off_t at = 0;
  data[0] = 0;
  while (at < size && used + 64 < sizeof data) {
    off_t from = lseek(file, at, SEEK_DATA);
    if (from < 0) break;
    at = lseek(file, from, SEEK_HOLE);
    used += sprintf(data + used, "%lld+%lld ", (long long)from, (long long)(at - from));
  }
  lseek(file, 0, SEEK_SET);
  uint32_t sum = 0;
  ssize_t some;
  if (size <= 1 << 30) {
    while ((some = read(file, bytes, sizeof bytes)) > 0) sum = crc(sum, bytes, some);
    if (some < 0) sayf(" error%d", errno);
    sayf(" %08x", sum);
  }
  say(" [", 2);
  say(data, used);
  say("]", 1);
  close(file);
}

static void entry(const char *path, const char *shown) {
  struct stat is;
  lineUsed = 0;
  if (lstat(path, &is) < 0) {
    sayName(shown);
    sayf(" !%d", errno);
  } else {
    sayName(shown);
    sayf(" %o %u:%u %lu", is.st_mode, is.st_uid, is.st_gid, (unsigned long)is.st_nlink);
    if (S_ISLNK(is.st_mode)) {
      char target[4096];
      ssize_t length = readlink(path, target, sizeof target - 1);
      target[length < 0 ? 0 : length] = 0;
      sayf(" -> ");
      sayName(target);
    }
    if (S_ISCHR(is.st_mode) || S_ISBLK(is.st_mode)) sayf(" %u,%u", major(is.st_rdev), minor(is.st_rdev));
    if (S_ISREG(is.st_mode)) {
      sayf(" %lld", (long long)is.st_size);
      content(path, is.st_size);
    }
    attributes(path);
    /* Folders have other times when they were used. */
    if (S_ISDIR(is.st_mode)) still += crc(0, (unsigned char *)line, lineUsed);
    sayf(" %lld.%09ld", (long long)is.st_mtim.tv_sec, is.st_mtim.tv_nsec);
    if (!S_ISDIR(is.st_mode)) still += crc(0, (unsigned char *)line, lineUsed);
  }
  line[lineUsed] = 0;
  if (lists) printf("@entry %s\n", line);
  digest += crc(0, (unsigned char *)line, lineUsed);
  count++;
}

static void walk(const char *path, const char *shown) {
  DIR *folder = opendir(path);
  if (!folder) {
    printf("@fact unreadable=%s %d\n", shown, errno);
    return;
  }
  struct dirent *one;
  while ((one = readdir(folder))) {
    if (!strcmp(one->d_name, ".") || !strcmp(one->d_name, "..")) continue;
    char *below, *name;
    if (asprintf(&below, "%s/%s", path, one->d_name) < 0 || asprintf(&name, "%s%s%s", shown, *shown ? "/" : "", one->d_name) < 0)
      exit(1);
    struct stat is;
    entry(below, name);
    if (lstat(below, &is) == 0) {
      int type = (is.st_mode & S_IFMT) >> 12;
      if (one->d_type != type) printf("@fact wrongtype=%s %d %d\n", name, one->d_type, type);
      if (S_ISDIR(is.st_mode)) walk(below, name);
    }
    free(below);
    free(name);
  }
  closedir(folder);
}

static void look(const char *when) {
  digest = still = count = 0;
  entry(ROOT, "");
  walk(ROOT, "");
  printf("@fact %s-entries=%llu\n@fact %s-sum=%llx\n@fact %s-still=%llx\n", when, (unsigned long long)count, when,
         (unsigned long long)digest, when, (unsigned long long)still);
}

static void room(const char *when) {
  struct statfs is;
  statfs(ROOT, &is);
  printf("@fact %s-blocks=%llu\n@fact %s-free=%llu\n@fact %s-available=%llu\n@fact %s-inodes=%llu\n@fact %s-freeinodes=%llu\n@fact %s-bsize=%ld\n",
         when, (unsigned long long)is.f_blocks, when, (unsigned long long)is.f_bfree, when, (unsigned long long)is.f_bavail,
         when, (unsigned long long)is.f_files, when, (unsigned long long)is.f_ffree, when, (long)is.f_bsize);
}

static const char *options = "";

static int put(const char *type, const char *device) {
  if (mount(device, ROOT, type, 0, options) == 0) return 0;
  printf("@fact mounted=no %d\n", errno);
  return -1;
}

/* Makes a small file; 1, or 0 where there is no room for it, or less where something else was wrong. */
static int makeFile(const char *path) {
  int file = open(path, O_CREAT | O_EXCL | O_WRONLY, 0640);
  if (file < 0) return errno == ENOSPC ? 0 : -1;
  int done = write(file, path, strlen(path)) == (ssize_t)strlen(path) ? 1 : errno == ENOSPC ? 0 : -2;
  close(file);
  return done;
}

/* Makes, renames and removes names in a folder; says whether every one of them is as it should be. */
static int useFolder(const char *folder) {
  char path[4600], other[4600];
  struct stat is;
  for (int i = 0; i < 400; i++) {
    snprintf(path, sizeof path, "%s/reading number %d of the coast", folder, i);
    int done = makeFile(path);
    if (done == 1) continue;
    /* What was made goes again, where there is no room for all of it. */
    for (int made = 0; made <= i && done == 0; made++) {
      snprintf(path, sizeof path, "%s/reading number %d of the coast", folder, made);
      if (unlink(path) < 0 && (made < i || errno != ENOENT)) done = -6;
    }
    return done;
  }
  for (int i = 0; i < 400; i += 2) {
    snprintf(path, sizeof path, "%s/reading number %d of the coast", folder, i);
    snprintf(other, sizeof other, "%s/moved %d", folder, i);
    if (rename(path, other) < 0) return -3;
    if (lstat(path, &is) == 0 || lstat(other, &is) < 0) return -4;
  }
  for (int i = 0; i < 400; i++) {
    snprintf(path, sizeof path, i % 2 ? "%s/reading number %d of the coast" : "%s/moved %d", folder, i);
    if (unlink(path) < 0) return -5;
  }
  return 1;
}

static void useAll(const char *path, int depth) {
  int done = useFolder(path);
  if (done < 0) printf("@fact misused=%s %d %d\n", path, done, errno);
  if (depth == 0) return;
  DIR *folder = opendir(path);
  struct dirent *one;
  while (folder && (one = readdir(folder))) {
    if (one->d_type != DT_DIR || one->d_name[0] == '.') continue;
    char *below;
    if (asprintf(&below, "%s/%s", path, one->d_name) < 0) exit(1);
    useAll(below, depth - 1);
    free(below);
  }
  if (folder) closedir(folder);
}

static void fillBlocks(void) {
  static char bytes[1 << 16];
  memset(bytes, 0x5a, sizeof bytes);
  int file = open(ROOT "/full", O_CREAT | O_WRONLY, 0600);
  if (file < 0) {
    printf("@fact full=no %d\n", errno);
    return;
  }
  size_t piece = sizeof bytes;
  while (piece >= 512) {
    ssize_t some = write(file, bytes, piece);
    if (some <= 0) piece /= 2;
  }
  int why = errno;
  if (fsync(file) < 0) why = errno;
  close(file);
  /* Where the next piece of it would need a block for its map too, one is left that small files can have. */
  char path[40];
  int small = 0;
  for (; why == ENOSPC && small < 8; small++) {
    snprintf(path, sizeof path, ROOT "/small %d", small);
    int done = makeFile(path);
    if (done < 0) why = errno;
    if (done < 1) break;
  }
  sync();
  printf("@fact full=%s\n", why == ENOSPC ? "yes" : "no");
  room("full");
  for (; small >= 0; small--) {
    snprintf(path, sizeof path, ROOT "/small %d", small);
    unlink(path);
  }
  unlink(ROOT "/full");
}

static void fillInodes(void) {
  char path[200];
  uint64_t made = 0;
  mkdir(ROOT "/many", 0700);
  for (;; made++) {
    snprintf(path, sizeof path, ROOT "/many/%llu", (unsigned long long)made);
    if (mknod(path, S_IFIFO | 0600, 0) < 0) break;
  }
  printf("@fact inodesfull=%s\n", errno == ENOSPC ? "yes" : "no");
  room("inodesfull");
  while (made--) {
    snprintf(path, sizeof path, ROOT "/many/%llu", (unsigned long long)made);
    unlink(path);
  }
  rmdir(ROOT "/many");
}

static void grow(const char *device, long block) {
  uint64_t bytes = 0, blocks;
  int disk = open(device, O_RDONLY);
  ioctl(disk, BLKGETSIZE64, &bytes);
  close(disk);
  blocks = bytes / block;
  int root = open(ROOT, O_RDONLY);
  int done = ioctl(root, EXT4_IOC_RESIZE_FS, &blocks);
  printf("@fact grown=%s %d\n", done == 0 ? "yes" : "no", errno);
  close(root);
  room("grown");
}

int main(int many, char **words) {
  if (many < 4) return 2;
  const char *device = words[1], *type = words[2], *work = words[3];
  for (int n = 0; n < 256; n++) {
    uint32_t c = n;
    for (int bit = 0; bit < 8; bit++) c = c & 1 ? 0xedb88320u ^ (c >> 1) : c >> 1;
    table[n] = c;
  }
  lists = strchr(work, 'l') != NULL;
  if (strchr(work, 'n')) options = "noinit_itable";
  if (put(type, device)) return 1;
  printf("@fact mounted=yes\n");
  room("new");
  look("new");
  lists = 0;
  if (strchr(work, 'u')) useAll(ROOT, 3);
  if (strchr(work, 'f')) fillBlocks();
  if (strchr(work, 'i')) fillInodes();
  struct statfs is;
  statfs(ROOT, &is);
  if (strchr(work, 'g')) grow(device, is.f_bsize);
  if (umount(ROOT) < 0) printf("@fact unmounted=no %d\n", errno);
  if (put(type, device)) return 1;
  room("again");
  look("again");
  if (umount(ROOT) < 0) printf("@fact unmounted=no %d\n", errno);
  else printf("@fact remounted=yes\n");
  return 0;
}
