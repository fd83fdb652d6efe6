/* Under the real program: kills it, or lets a call fail, at the Nth write, sync, truncation, renaming, linking, removal or
   making of a file below one folder. Loaded by LD_PRELOAD; armed by fault_arm, or by the environment at the start
   (FAULT_FOLDER, FAULT_AT, FAULT_HOW). Each counted call adds a byte to FAULT_LOG, where that is set. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <limits.h>
#include <signal.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/syscall.h>
#include <sys/types.h>
#include <unistd.h>

static char folder[PATH_MAX];
static long at = -1, count = 0;
static int how = 0, forever = 0; /* 0 counts, -1 kills, else the error number */
static int log_fd = -1;

void fault_arm(const char *where, long when, int what, int on) {
    snprintf(folder, sizeof folder, "%s", where);
    at = when, how = what, forever = on, count = 0;
}
void fault_disarm(void) { at = -1; folder[0] = 0; }
long fault_count(void) { return count; }

__attribute__((constructor)) static void begin(void) {
    const char *where = getenv("FAULT_FOLDER"), *when = getenv("FAULT_AT"), *what = getenv("FAULT_HOW");
    const char *log = getenv("FAULT_LOG");
    if (log) log_fd = syscall(SYS_openat, AT_FDCWD, log, O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0600);
    if (where) fault_arm(where, when ? atol(when) : 0, what ? atoi(what) : 0, 0);
}

static int strike(void) {
    count++;
    if (log_fd >= 0) syscall(SYS_write, log_fd, ".", 1);
    if (at <= 0 || (forever ? count < at : count != at)) return 0;
    if (how < 0) syscall(SYS_kill, getpid(), SIGKILL);
    if (how > 0) { errno = how; return 1; }
    return 0;
}
static int inside(const char *path) {
    if (!folder[0] || !path) return 0;
    if (path[0] == '/') return !strncmp(path, folder, strlen(folder));
    char here[PATH_MAX];
    return getcwd(here, sizeof here) && !strncmp(here, folder, strlen(folder));
}
static int fd_inside(int fd) {
    if (!folder[0]) return 0;
    char link[64], path[PATH_MAX];
    snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
    ssize_t n = syscall(SYS_readlinkat, AT_FDCWD, link, path, sizeof path - 1);
    if (n < 0) return 0;
    path[n] = 0;
    return !strncmp(path, folder, strlen(folder));
}
#define REAL(type, name, ...) static type (*real)(__VA_ARGS__); if (!real) real = dlsym(RTLD_NEXT, #name)

ssize_t write(int fd, const void *data, size_t n) {
    REAL(ssize_t, write, int, const void *, size_t);
    return fd_inside(fd) && strike() ? -1 : real(fd, data, n);
}
ssize_t pwrite(int fd, const void *data, size_t n, off_t o) {
    REAL(ssize_t, pwrite, int, const void *, size_t, off_t);
    return fd_inside(fd) && strike() ? -1 : real(fd, data, n, o);
}
ssize_t pwrite64(int fd, const void *data, size_t n, off64_t o) {
    REAL(ssize_t, pwrite64, int, const void *, size_t, off64_t);
    return fd_inside(fd) && strike() ? -1 : real(fd, data, n, o);
}
int fsync(int fd) { REAL(int, fsync, int); return fd_inside(fd) && strike() ? -1 : real(fd); }
int fdatasync(int fd) { REAL(int, fdatasync, int); return fd_inside(fd) && strike() ? -1 : real(fd); }
int ftruncate(int fd, off_t n) { REAL(int, ftruncate, int, off_t); return fd_inside(fd) && strike() ? -1 : real(fd, n); }
int ftruncate64(int fd, off64_t n) {
    REAL(int, ftruncate64, int, off64_t);
    return fd_inside(fd) && strike() ? -1 : real(fd, n);
}
int rename(const char *a, const char *b) {
    REAL(int, rename, const char *, const char *);
    return (inside(a) || inside(b)) && strike() ? -1 : real(a, b);
}
int link(const char *a, const char *b) {
    REAL(int, link, const char *, const char *);
    return (inside(a) || inside(b)) && strike() ? -1 : real(a, b);
}
int unlink(const char *a) { REAL(int, unlink, const char *); return inside(a) && strike() ? -1 : real(a); }
int rmdir(const char *a) { REAL(int, rmdir, const char *); return inside(a) && strike() ? -1 : real(a); }
int mkdir(const char *a, mode_t m) { REAL(int, mkdir, const char *, mode_t); return inside(a) && strike() ? -1 : real(a, m); }

static int opening(const char *path, int flags) { return (flags & O_CREAT) && inside(path) && strike(); }
int open(const char *path, int flags, ...) {
    REAL(int, open, const char *, int, ...);
    va_list rest; va_start(rest, flags); int mode = (flags & (O_CREAT | O_TMPFILE)) ? va_arg(rest, int) : 0; va_end(rest);
    return opening(path, flags) ? -1 : real(path, flags, mode);
}
int open64(const char *path, int flags, ...) {
    REAL(int, open64, const char *, int, ...);
    va_list rest; va_start(rest, flags); int mode = (flags & (O_CREAT | O_TMPFILE)) ? va_arg(rest, int) : 0; va_end(rest);
    return opening(path, flags) ? -1 : real(path, flags, mode);
}
