/*
 * A disk that fails when it is told to, and that tells what was written to it in which order. Loaded
 * before the C library (LD_PRELOAD); it sees the calls on files below the folder in FAULT_FOLDER.
 *
 * FAULT_CONTROL  a file of five 32-bit numbers, mapped: what fails (0 nothing, 1 writes, 2 syncs, 3 reads),
 *                after how many such calls, with which error, for how many calls (0: from then on), and
 *                which time it is that this is said.
 * FAULT_TRACE    where every change is written down: kind, path, offset, length, and the bytes written.
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <pthread.h>
#include <stdarg.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#define REAL(result, name, ...) \
  static result (*real_##name)(__VA_ARGS__); \
  if (!real_##name) real_##name = (result (*)(__VA_ARGS__))dlsym(RTLD_NEXT, #name)

enum { WRITES = 1, SYNCS = 2, READS = 3 };

static pthread_mutex_t lock = PTHREAD_MUTEX_INITIALIZER;
static const char *folder;
static volatile int32_t *control;
static int trace = -1;

__attribute__((constructor)) static void begin(void) {
  folder = getenv("FAULT_FOLDER");
  const char *control_path = getenv("FAULT_CONTROL");
  const char *trace_path = getenv("FAULT_TRACE");
  if (control_path) {
    int fd = open(control_path, O_RDWR);
    if (fd >= 0) control = mmap(NULL, 20, PROT_READ, MAP_SHARED, fd, 0);
  }
  if (trace_path) trace = open(trace_path, O_WRONLY | O_CREAT | O_APPEND, 0600);
}

/* The path of an open file, where it is below the folder; the index that SQLite shares in memory is no part of the disk. */
static int path_of(int fd, char *path) {
  char link[40];
  if (!folder || fd == trace) return 0;
  snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
  ssize_t length = readlink(link, path, 4095);
  if (length <= 0) return 0;
  path[length] = 0;
  size_t end = strlen(path);
  return strncmp(path, folder, strlen(folder)) == 0 && !(end > 4 && strcmp(path + end - 4, "-shm") == 0);
}

/* Whether this call is to fail; the countdown is kept here, since the control file is only read. */
static int fails(int what) {
  static int32_t said = 0, counted = 0;
  if (!control || control[0] != what) return 0;
  if (said != control[4]) {
    said = control[4];
    counted = 0;
  }
  int32_t past = counted++ - control[1];
  if (past < 0 || (control[3] > 0 && past >= control[3])) return 0;
  errno = control[2];
  return 1;
}

static void note(char kind, const char *path, int64_t offset, int64_t length, const void *bytes) {
  REAL(ssize_t, write, int, const void *, size_t);
  if (trace < 0) return;
  char head[4200];
  int size = snprintf(head, sizeof head, "%c %s %lld %lld\n", kind, path, (long long)offset, (long long)length);
  (void)!real_write(trace, head, size);
  if (bytes) (void)!real_write(trace, bytes, length);
}

ssize_t write(int fd, const void *bytes, size_t length) {
  REAL(ssize_t, write, int, const void *, size_t);
  char path[4096];
  if (!path_of(fd, path)) return real_write(fd, bytes, length);
  pthread_mutex_lock(&lock);
  ssize_t done = -1;
  if (!fails(WRITES)) {
    struct stat now;
    int appends = fcntl(fd, F_GETFL) & O_APPEND;
    off_t offset = appends && fstat(fd, &now) == 0 ? now.st_size : lseek(fd, 0, SEEK_CUR);
    done = real_write(fd, bytes, length);
    if (done > 0) note('w', path, offset, done, bytes);
  }
  pthread_mutex_unlock(&lock);
  return done;
}

static ssize_t write_at(ssize_t (*real)(int, const void *, size_t, off_t), int fd, const void *bytes, size_t length, off_t offset) {
  char path[4096];
  if (!path_of(fd, path)) return real(fd, bytes, length, offset);
  pthread_mutex_lock(&lock);
  ssize_t done = -1;
  if (!fails(WRITES)) {
    done = real(fd, bytes, length, offset);
    if (done > 0) note('w', path, offset, done, bytes);
  }
  pthread_mutex_unlock(&lock);
  return done;
}

ssize_t pwrite(int fd, const void *bytes, size_t length, off_t offset) {
  REAL(ssize_t, pwrite, int, const void *, size_t, off_t);
  return write_at(real_pwrite, fd, bytes, length, offset);
}

ssize_t pwrite64(int fd, const void *bytes, size_t length, off64_t offset) {
  REAL(ssize_t, pwrite64, int, const void *, size_t, off64_t);
  return write_at((ssize_t (*)(int, const void *, size_t, off_t))real_pwrite64, fd, bytes, length, offset);
}

static int truncate_to(int (*real)(int, off_t), int fd, off_t length) {
  char path[4096];
  if (!path_of(fd, path)) return real(fd, length);
  pthread_mutex_lock(&lock);
  int done = -1;
  if (!fails(WRITES)) {
    done = real(fd, length);
    if (done == 0) note('t', path, 0, length, NULL);
  }
  pthread_mutex_unlock(&lock);
  return done;
}

int ftruncate(int fd, off_t length) {
  REAL(int, ftruncate, int, off_t);
  return truncate_to(real_ftruncate, fd, length);
}

int ftruncate64(int fd, off64_t length) {
  REAL(int, ftruncate64, int, off64_t);
  return truncate_to((int (*)(int, off_t))real_ftruncate64, fd, length);
}

static int sync_by(int (*real)(int), int fd) {
  char path[4096];
  if (!path_of(fd, path)) return real(fd);
  pthread_mutex_lock(&lock);
  int done = -1;
  if (!fails(SYNCS)) {
    done = real(fd);
    if (done == 0) note('s', path, 0, 0, NULL);
  }
  pthread_mutex_unlock(&lock);
  return done;
}

int fsync(int fd) {
  REAL(int, fsync, int);
  return sync_by(real_fsync, fd);
}

int fdatasync(int fd) {
  REAL(int, fdatasync, int);
  return sync_by(real_fdatasync, fd);
}

ssize_t read(int fd, void *bytes, size_t length) {
  REAL(ssize_t, read, int, void *, size_t);
  char path[4096];
  if (!control || control[0] != READS || !path_of(fd, path)) return real_read(fd, bytes, length);
  pthread_mutex_lock(&lock);
  int bad = fails(READS);
  pthread_mutex_unlock(&lock);
  return bad ? -1 : real_read(fd, bytes, length);
}

ssize_t pread64(int fd, void *bytes, size_t length, off64_t offset) {
  REAL(ssize_t, pread64, int, void *, size_t, off64_t);
  char path[4096];
  if (!control || control[0] != READS || !path_of(fd, path)) return real_pread64(fd, bytes, length, offset);
  pthread_mutex_lock(&lock);
  int bad = fails(READS);
  pthread_mutex_unlock(&lock);
  return bad ? -1 : real_pread64(fd, bytes, length, offset);
}

int unlink(const char *path) {
  REAL(int, unlink, const char *);
  int done = real_unlink(path);
  if (done == 0 && folder && strncmp(path, folder, strlen(folder)) == 0) {
    pthread_mutex_lock(&lock);
    note('u', path, 0, 0, NULL);
    pthread_mutex_unlock(&lock);
  }
  return done;
}

int rename(const char *from, const char *to) {
  REAL(int, rename, const char *, const char *);
  int done = real_rename(from, to);
  if (done == 0 && folder && strncmp(from, folder, strlen(folder)) == 0) {
    pthread_mutex_lock(&lock);
    note('m', from, 0, strlen(to), to);
    pthread_mutex_unlock(&lock);
  }
  return done;
}

static int open_as(int (*real)(const char *, int, ...), const char *path, int flags, mode_t mode) {
  int fd = real(path, flags, mode);
  if (fd >= 0 && (flags & O_TRUNC) && folder && strncmp(path, folder, strlen(folder)) == 0) {
    pthread_mutex_lock(&lock);
    note('t', path, 0, 0, NULL);
    pthread_mutex_unlock(&lock);
  }
  return fd;
}

int open(const char *path, int flags, ...) {
  REAL(int, open, const char *, int, ...);
  va_list rest;
  va_start(rest, flags);
  mode_t mode = flags & (O_CREAT | O_TMPFILE) ? va_arg(rest, mode_t) : 0;
  va_end(rest);
  return open_as(real_open, path, flags, mode);
}

int open64(const char *path, int flags, ...) {
  REAL(int, open64, const char *, int, ...);
  va_list rest;
  va_start(rest, flags);
  mode_t mode = flags & (O_CREAT | O_TMPFILE) ? va_arg(rest, mode_t) : 0;
  va_end(rest);
  return open_as(real_open64, path, flags, mode);
}
