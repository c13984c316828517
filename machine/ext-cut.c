/*
 * Runs in the guest until the machine is ended: mounts an ext volume and works on it hard, so that it is cut off in the
 * middle of a write. See ext-cuts.ts.
 *
 * ext-cut DEVICE TYPE OPTIONS SEED
 */
#define _GNU_SOURCE
#include <errno.h>
#include <fcntl.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mount.h>
#include <sys/stat.h>
#include <sys/xattr.h>
#include <unistd.h>

/* What is done before it is said that it works. */
#define FIRST_STEPS 200
/* Files that no step touches, each small enough to lie in its inode. */
#define STEADY_FILES 24

static uint64_t state;
static char root[64];
static char bytes[1 << 18];

static unsigned draw(unsigned below) {
  state ^= state << 13;
  state ^= state >> 7;
  state ^= state << 17;
  return (unsigned)((state >> 11) % below);
}

static char *folder(char *into) {
  sprintf(into, "%s/tide %u", root, draw(6));
  if (draw(2)) sprintf(into + strlen(into), "/ebb %u", draw(3));
  return into;
}

static char *file(char *into) {
  folder(into);
  sprintf(into + strlen(into), "/reading %u of the coast", draw(60));
  return into;
}

static void writeSome(int to) {
  size_t length = draw(3) == 0 ? 1 + draw(170) : draw(8) ? 1 + draw(20000) : 1 + draw(sizeof bytes);
  for (size_t i = 0; i < length; i += 1 + draw(900)) bytes[i] = (char)draw(256);
  /* What begins as blocks of a journal do must come back as it was. */
  if (draw(6) == 0) memcpy(bytes, "\xc0\x3b\x39\x98", 4);
  if (write(to, bytes, length) < 0) return;
}

/* Open files that have no name any more. */
static int held[12];

static void step(void) {
  char a[400], b[400];
  int at;
  switch (draw(20)) {
    case 0:
      mkdir(folder(a), 0750);
      break;
    case 1:
    case 2:
    case 3:
    case 4:
      if ((at = open(file(a), O_CREAT | O_WRONLY | (draw(2) ? O_TRUNC : O_APPEND), 0640)) < 0) break;
      writeSome(at);
      if (draw(5) == 0) fsync(at);
      close(at);
      break;
    case 5:
      if ((at = open(file(a), O_CREAT | O_WRONLY, 0600)) < 0) break;
      lseek(at, draw(4000000), SEEK_SET);
      writeSome(at);
      close(at);
      break;
    case 6:
    case 7:
      unlink(file(a));
      break;
    case 8:
      rename(file(a), file(b));
      break;
    case 9:
      if (draw(4)) rename(folder(a), folder(b));
      else rmdir(folder(a));
      break;
    case 10:
      if (truncate(file(a), draw(2) ? draw(3000000) : 0) < 0) break;
      break;
    case 11:
      if ((at = open(file(a), O_CREAT | O_RDWR, 0600)) < 0) break;
      fallocate(at, draw(2), draw(500000), 1 + draw(900000));
      if (draw(2)) fallocate(at, 3, draw(500000), 1 + draw(300000));
      close(at);
      break;
    case 12: {
      char name[32];
      size_t length = draw(4) ? 1 + draw(40) : 1 + draw(900);
      sprintf(name, "user.gauge%u", draw(5));
      if (draw(3)) setxattr(file(a), name, bytes, length, 0);
      else removexattr(file(a), name);
      break;
    }
    case 13:
      if (link(file(a), file(b)) < 0) break;
      break;
    case 14:
      memset(b, 'n', sizeof b);
      b[1 + draw(190)] = 0;
      if (symlink(b, file(a)) < 0) break;
      break;
    case 15: {
      int i = draw(12);
      if (held[i]) close(held[i]);
      held[i] = open(file(a), O_CREAT | O_RDWR, 0600);
      if (held[i] < 0) held[i] = 0;
      else {
        writeSome(held[i]);
        unlink(a);
      }
      break;
    }
    case 16:
      /* Whoever opened it past the cache makes it longer a piece at a time. */
      if ((at = open(file(a), O_CREAT | O_WRONLY | O_DIRECT, 0600)) >= 0) {
        void *page;
        if (posix_memalign(&page, 4096, 65536) == 0) {
          memset(page, 0x5a, 65536);
          lseek(at, 0, SEEK_END);
          if (pwrite(at, page, 4096 * (1 + draw(16)), 4096 * draw(200)) < 0) errno = 0;
          free(page);
        }
        close(at);
      }
      break;
    case 17:
      chmod(file(a), 0600 + draw(64));
      if (chown(a, draw(70000), draw(70000)) < 0) break;
      break;
    case 18:
      if (draw(12) == 0) sync();
      break;
    default: {
      /* Many names at once, and all of them gone again. */
      unsigned n = draw(120);
      folder(a);
      size_t end = strlen(a);
      for (unsigned i = 0; i < n; i++) {
        sprintf(a + end, "/many %u", i);
        if ((at = open(a, O_CREAT | O_WRONLY, 0600)) >= 0) close(at);
      }
      if (draw(3) == 0) break;
      for (unsigned i = 0; i < n; i++) {
        sprintf(a + end, "/many %u", i);
        unlink(a);
      }
    }
  }
}

static void makeSteady(void) {
  char name[400];
  sprintf(name, "%s/steady", root);
  mkdir(name, 0750);
  size_t end = strlen(name);
  for (unsigned i = 0; i < STEADY_FILES; i++) {
    sprintf(name + end, "/mark %u", i);
    int at = open(name, O_CREAT | O_EXCL | O_WRONLY, 0640);
    if (at < 0) continue;
    if (write(at, bytes, 1 + draw(60)) < 0) errno = 0;
    close(at);
  }
}

int main(int many, char **words) {
  if (many < 5) return 2;
  state = 88172645463325252ull + 977 * strtoull(words[4], NULL, 10);
  const char *name = strrchr(words[1], '/');
  snprintf(root, sizeof root, "/cut%s", name);
  mkdir("/cut", 0700);
  mkdir(root, 0700);
  if (mount(words[1], root, words[2], 0, words[3]) < 0) {
    printf("@uncut %s %d\n", words[1], errno);
    return 1;
  }
  for (unsigned i = 0; i < sizeof bytes; i++) bytes[i] = (char)draw(256);
  /* All begin together: whoever is mounted late would have to wait for the others. */
  while (access("/tmp/all", F_OK) < 0) usleep(20000);
  makeSteady();
  /* However busy the host is: something is there for good, and goes on, when it is cut off. */
  for (unsigned i = 0; i < FIRST_STEPS; i++) step();
  int own = open(root, O_RDONLY | O_DIRECTORY);
  if (own >= 0) {
    syncfs(own);
    close(own);
  }
  printf("@working %s\n", words[1]);
  fflush(stdout);
  for (;;) step();
}
