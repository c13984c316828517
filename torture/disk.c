/*
 * A disk that can lose power and fail, as a preloaded library.
 *
 * Everything that a program does to files below a folder is done, and written down as well: which
 * bytes were written where, which names were made, moved and removed, and what was synced. From
 * that a test makes the folder as it may be after a power cut at any moment: what was synced is
 * there, of the rest any part. Besides, the n-th call can be made to fail, or to write less.
 *
 * Environment: LOESS_DISK_ROOT is the folder, LOESS_DISK_LOG the file that is written.
 * Orders are given by opening a path below ORDERS: it fails with ENOENT when the order was taken.
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <limits.h>
#include <pthread.h>
#include <stdarg.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <sys/types.h>
#include <sys/uio.h>
#include <unistd.h>

#define ORDERS "/.loess-disk/"
#define MOST_FILES 65536

enum kind { CREATE = 1, TRUNCATE, WRITE, RENAME, UNLINK, MKDIR, SYNC, SYNC_FAILED, SYNC_ALL, MARK };

/* One record of the log: this head, then the path, a second path, and data. */
struct head {
  uint32_t kind;
  uint32_t path_length;
  uint32_t other_length;
  uint32_t data_length;
  uint64_t inode;
  uint64_t offset;
};

static pthread_mutex_t lock = PTHREAD_MUTEX_INITIALIZER;
static char root[PATH_MAX];
static size_t root_length;
static int log_file = -1;
static dev_t device;
/* Inode of every open file below the root, by descriptor; 0 for all others. */
static uint64_t tracked[MOST_FILES];

/* The fault that is armed: on which call, and what happens then. */
static long fault_at;
static long calls;
static int fault_error; /* 0: a short write */
static int fired;

#define REAL(type, name, ...)                        \
  static type (*real)(__VA_ARGS__);                  \
  if (!real) real = (type(*)(__VA_ARGS__))dlsym(RTLD_NEXT, name)

__attribute__((constructor)) static void begin(void) {
  const char *folder = getenv("LOESS_DISK_ROOT");
  const char *log = getenv("LOESS_DISK_LOG");
  if (!folder || !log || !realpath(folder, root)) return;
  root_length = strlen(root);
  struct stat found;
  if (stat(root, &found)) return;
  device = found.st_dev;
  log_file = (int)syscall(SYS_openat, AT_FDCWD, log, O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0644);
}

static void put(int kind, uint64_t inode, uint64_t offset, const char *path, const char *other, const void *data,
                size_t length) {
  if (log_file < 0) return;
  struct head head = {kind, path ? strlen(path) : 0, other ? strlen(other) : 0, (uint32_t)length, inode, offset};
  size_t all = sizeof head + head.path_length + head.other_length + length;
  char *record = malloc(all), *at = record;
  memcpy(at, &head, sizeof head);
  at += sizeof head;
  if (path) memcpy(at, path, head.path_length);
  at += head.path_length;
  if (other) memcpy(at, other, head.other_length);
  at += head.other_length;
  if (length) memcpy(at, data, length);
  for (size_t done = 0; done < all;) {
    long n = syscall(SYS_write, log_file, record + done, all - done);
    if (n <= 0) abort();
    done += n;
  }
  free(record);
}

/* The path below the root that a call means, relative to the root; NULL for every other path. */
static const char *within(int folder, const char *path, char out[PATH_MAX]) {
  if (log_file < 0 || !path) return NULL;
  char whole[PATH_MAX * 2];
  if (path[0] == '/')
    snprintf(whole, sizeof whole, "%s", path);
  else {
    char base[PATH_MAX];
    if (folder == AT_FDCWD) {
      if (!getcwd(base, sizeof base)) return NULL;
    } else {
      char link[64];
      snprintf(link, sizeof link, "/proc/self/fd/%d", folder);
      ssize_t n = syscall(SYS_readlinkat, AT_FDCWD, link, base, sizeof base - 1);
      if (n < 0) return NULL;
      base[n] = 0;
    }
    snprintf(whole, sizeof whole, "%s/%s", base, path);
  }
  if (strncmp(whole, root, root_length) || (whole[root_length] != '/' && whole[root_length])) return NULL;
  snprintf(out, PATH_MAX, "%s", whole + root_length + (whole[root_length] == '/'));
  size_t end = strlen(out);
  while (end > 0 && out[end - 1] == '/') out[--end] = 0;
  return out;
}

/* Counts a call that can fail so; true when it is the one that shall. */
static int fails(int can_be_full, int can_be_many) {
  if (!fault_at) return 0;
  if (fault_error == ENOSPC && !can_be_full) return 0;
  if (fault_error == EMFILE && !can_be_many) return 0;
  if (fault_error == 0) return 0;
  if (++calls != fault_at) return 0;
  fired = 1;
  errno = fault_error;
  return 1;
}

/* How much of a write is done: all of it, or less where that is the fault. */
static size_t shortened(size_t length) {
  if (!fault_at || fault_error != 0 || length < 2) return length;
  if (++calls != fault_at) return length;
  fired = 1;
  return length / 2;
}

/* Takes an order. Returns -1 with ENOENT, or a descriptor as a yes. */
static int ordered(const char *order) {
  pthread_mutex_lock(&lock);
  int answer = -1;
  if (!strncmp(order, "mark/", 5))
    put(MARK, 0, 0, NULL, NULL, order + 5, strlen(order + 5));
  else if (!strncmp(order, "fail/", 5)) {
    sscanf(order + 5, "%d/%ld", &fault_error, &fault_at);
    calls = 0;
    fired = 0;
  } else if (!strcmp(order, "calm"))
    fault_at = 0;
  else if (!strcmp(order, "fired") && fired)
    answer = (int)syscall(SYS_openat, AT_FDCWD, "/dev/null", O_RDONLY | O_CLOEXEC, 0);
  pthread_mutex_unlock(&lock);
  if (answer < 0) errno = ENOENT;
  return answer;
}

static uint64_t inode_of(int file) {
  struct stat found;
  return fstat(file, &found) ? 0 : found.st_ino;
}

static int opened(int folder, const char *path, int flags, mode_t mode) {
  if (path && !strncmp(path, ORDERS, sizeof ORDERS - 1)) return ordered(path + sizeof ORDERS - 1);
  char place[PATH_MAX];
  const char *inside = within(folder, path, place);
  if (!inside) return (int)syscall(SYS_openat, folder, path, flags, mode);
  pthread_mutex_lock(&lock);
  int is_new = (flags & O_CREAT) && syscall(SYS_faccessat, folder, path, F_OK) != 0;
  int file = -1;
  if (!fails(is_new, 1)) {
    file = (int)syscall(SYS_openat, folder, path, flags, mode);
    int error = errno;
    if (file >= MOST_FILES) abort();
    if (file >= 0) {
      tracked[file] = inode_of(file);
      if (is_new) put(CREATE, tracked[file], 0, inside, NULL, NULL, 0);
      if (!is_new && (flags & O_TRUNC)) put(TRUNCATE, tracked[file], 0, NULL, NULL, NULL, 0);
    }
    errno = error;
  }
  int error = errno;
  pthread_mutex_unlock(&lock);
  errno = error;
  return file;
}

#define MODE                                   \
  mode_t mode = 0;                             \
  if (flags & (O_CREAT | O_TMPFILE)) {         \
    va_list rest;                              \
    va_start(rest, flags);                     \
    mode = va_arg(rest, mode_t);               \
    va_end(rest);                              \
  }

int open(const char *path, int flags, ...) {
  MODE return opened(AT_FDCWD, path, flags, mode);
}
int open64(const char *path, int flags, ...) {
  MODE return opened(AT_FDCWD, path, flags | O_LARGEFILE, mode);
}
int openat(int folder, const char *path, int flags, ...) {
  MODE return opened(folder, path, flags, mode);
}
int openat64(int folder, const char *path, int flags, ...) {
  MODE return opened(folder, path, flags | O_LARGEFILE, mode);
}

int close(int file) {
  if (file >= 0 && file < MOST_FILES) tracked[file] = 0;
  return (int)syscall(SYS_close, file);
}

/* Whether a descriptor is a file below the root. Some programs close without telling: then it is another file now. */
static int is_tracked(int file) {
  if (log_file < 0 || file < 0 || file >= MOST_FILES || !tracked[file]) return 0;
  int error = errno;
  struct stat found;
  if (fstat(file, &found) || found.st_ino != tracked[file] || found.st_dev != device) tracked[file] = 0;
  errno = error;
  return tracked[file] != 0;
}

/* Writes at a place, or at the file's own position where `offset` is negative. */
static ssize_t written(int file, const void *bytes, size_t length, off_t offset) {
  pthread_mutex_lock(&lock);
  ssize_t n = -1;
  if (!fails(1, 0)) {
    length = shortened(length);
    int appends = (int)syscall(SYS_fcntl, file, F_GETFL) & O_APPEND;
    off_t at = offset >= 0 ? offset : appends ? lseek(file, 0, SEEK_END) : lseek(file, 0, SEEK_CUR);
    n = offset >= 0 ? syscall(SYS_pwrite64, file, bytes, length, offset) : syscall(SYS_write, file, bytes, length);
    int error = errno;
    if (n > 0) put(WRITE, tracked[file], at, NULL, NULL, bytes, n);
    errno = error;
  }
  int error = errno;
  pthread_mutex_unlock(&lock);
  errno = error;
  return n;
}

ssize_t write(int file, const void *bytes, size_t length) {
  return is_tracked(file) ? written(file, bytes, length, -1) : syscall(SYS_write, file, bytes, length);
}
ssize_t pwrite(int file, const void *bytes, size_t length, off_t offset) {
  return is_tracked(file) ? written(file, bytes, length, offset) : syscall(SYS_pwrite64, file, bytes, length, offset);
}
ssize_t pwrite64(int file, const void *bytes, size_t length, off64_t offset) { return pwrite(file, bytes, length, offset); }

/* Several pieces: the first of them, which is a short write like any other. */
ssize_t writev(int file, const struct iovec *pieces, int count) {
  if (!is_tracked(file)) return syscall(SYS_writev, file, pieces, count);
  for (int i = 0; i < count; i++)
    if (pieces[i].iov_len) return written(file, pieces[i].iov_base, pieces[i].iov_len, -1);
  return 0;
}
ssize_t pwritev(int file, const struct iovec *pieces, int count, off_t offset) {
  if (!is_tracked(file)) {
    REAL(ssize_t, "pwritev", int, const struct iovec *, int, off_t);
    return real(file, pieces, count, offset);
  }
  for (int i = 0; i < count; i++)
    if (pieces[i].iov_len) return written(file, pieces[i].iov_base, pieces[i].iov_len, offset);
  return 0;
}
ssize_t pwritev64(int file, const struct iovec *pieces, int count, off64_t offset) {
  return pwritev(file, pieces, count, offset);
}

static ssize_t read_at(int file, void *bytes, size_t length, off_t offset, int has_offset) {
  if (is_tracked(file)) {
    pthread_mutex_lock(&lock);
    int fault = fails(0, 0);
    pthread_mutex_unlock(&lock);
    if (fault) {
      errno = fault_error;
      return -1;
    }
  }
  return has_offset ? syscall(SYS_pread64, file, bytes, length, offset) : syscall(SYS_read, file, bytes, length);
}
ssize_t read(int file, void *bytes, size_t length) { return read_at(file, bytes, length, 0, 0); }
ssize_t pread(int file, void *bytes, size_t length, off_t offset) { return read_at(file, bytes, length, offset, 1); }
ssize_t pread64(int file, void *bytes, size_t length, off64_t offset) { return read_at(file, bytes, length, offset, 1); }

static int synced(int file, int number) {
  if (!is_tracked(file)) return (int)syscall(number, file);
  pthread_mutex_lock(&lock);
  /* A disk that cannot write says so once, and what it could not write is gone. */
  int fault = fails(0, 0);
  put(fault ? SYNC_FAILED : SYNC, tracked[file], 0, NULL, NULL, NULL, 0);
  pthread_mutex_unlock(&lock);
  if (fault) errno = fault_error;
  return fault ? -1 : 0;
}
int fsync(int file) { return synced(file, SYS_fsync); }
int fdatasync(int file) { return synced(file, SYS_fdatasync); }
int syncfs(int file) {
  if (!is_tracked(file)) return (int)syscall(SYS_syncfs, file);
  put(SYNC_ALL, 0, 0, NULL, NULL, NULL, 0);
  return 0;
}

int ftruncate(int file, off_t length) {
  if (!is_tracked(file)) return (int)syscall(SYS_ftruncate, file, length);
  pthread_mutex_lock(&lock);
  int result = -1;
  if (!fails(1, 0)) {
    result = (int)syscall(SYS_ftruncate, file, length);
    if (!result) put(TRUNCATE, tracked[file], length, NULL, NULL, NULL, 0);
  }
  int error = errno;
  pthread_mutex_unlock(&lock);
  errno = error;
  return result;
}
int ftruncate64(int file, off64_t length) { return ftruncate(file, length); }

int rename(const char *from, const char *to) {
  char a[PATH_MAX], b[PATH_MAX];
  const char *old = within(AT_FDCWD, from, a), *new = within(AT_FDCWD, to, b);
  if (!old || !new) return (int)syscall(SYS_renameat, AT_FDCWD, from, AT_FDCWD, to);
  pthread_mutex_lock(&lock);
  int result = -1;
  if (!fails(1, 0)) {
    result = (int)syscall(SYS_renameat, AT_FDCWD, from, AT_FDCWD, to);
    int error = errno;
    if (!result) put(RENAME, 0, 0, old, new, NULL, 0);
    errno = error;
  }
  int error = errno;
  pthread_mutex_unlock(&lock);
  errno = error;
  return result;
}

static int removed(int folder, const char *path, int flags) {
  char a[PATH_MAX];
  const char *inside = within(folder, path, a);
  if (!inside) return (int)syscall(SYS_unlinkat, folder, path, flags);
  pthread_mutex_lock(&lock);
  int result = -1;
  if (!fails(0, 0)) {
    result = (int)syscall(SYS_unlinkat, folder, path, flags);
    int error = errno;
    if (!result) put(UNLINK, 0, 0, inside, NULL, NULL, 0);
    errno = error;
  }
  int error = errno;
  pthread_mutex_unlock(&lock);
  errno = error;
  return result;
}
int unlink(const char *path) { return removed(AT_FDCWD, path, 0); }
int rmdir(const char *path) { return removed(AT_FDCWD, path, AT_REMOVEDIR); }
int unlinkat(int folder, const char *path, int flags) { return removed(folder, path, flags); }

int mkdir(const char *path, mode_t mode) {
  char a[PATH_MAX];
  const char *inside = within(AT_FDCWD, path, a);
  if (!inside) return (int)syscall(SYS_mkdirat, AT_FDCWD, path, mode);
  pthread_mutex_lock(&lock);
  int result = -1;
  if (!fails(1, 0)) {
    result = (int)syscall(SYS_mkdirat, AT_FDCWD, path, mode);
    int error = errno;
    struct stat found;
    if (!result && !stat(path, &found)) put(MKDIR, found.st_ino, 0, inside, NULL, NULL, 0);
    errno = error;
  }
  int error = errno;
  pthread_mutex_unlock(&lock);
  errno = error;
  return result;
}
