/* hal.h for a computer: the wire is a pseudo-terminal, whose path is said on standard output, or standard input and output
   (`--stdio`); the pins are a program's at the other end of descriptor 3, which answers each request. */
#define _XOPEN_SOURCE 600
#include <fcntl.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <time.h>
#include <unistd.h>

#include "../hal.h"
#include "../pod.h"

enum { PINS_AT = 3, REST_MILLISECONDS = 20, LINE_MICROSECONDS = 5000 };

static int wire_in = 0, wire_out = 1;
static char name[25] = "host";
static uint8_t on_line[32];
static unsigned line_at, line_size;

static struct hal_about about_host = {name, 0, 0, 0};
const struct hal_about *const hal_about = &about_host;

/* Nobody is left to work for once the pins are gone. */
static void ask(const uint8_t *request, size_t size, uint8_t *reply, size_t wanted) {
  if (write(PINS_AT, request, size) != (ssize_t)size) exit(0);
  for (size_t got = 0; got < wanted;) {
    ssize_t more = read(PINS_AT, reply + got, wanted - got);
    if (more <= 0) exit(0);
    got += (size_t)more;
  }
}

static void number(uint8_t *at, uint32_t value) {
  for (int i = 0; i < 4; i++) at[i] = (uint8_t)(value >> (8 * i));
}

static uint32_t number_at(const uint8_t *at) {
  return at[0] | (uint32_t)at[1] << 8 | (uint32_t)at[2] << 16 | (uint32_t)at[3] << 24;
}

/* A byte at a time would be a system call a byte: they leave by whole frames. */
static uint8_t kept[512];
static size_t kept_size;

static void send_kept(void) {
  ssize_t gone = write(wire_out, kept, kept_size);
  if (gone > 0) memmove(kept, kept + gone, kept_size -= (size_t)gone);
}

bool hal_wire_put(uint8_t byte) {
  if (kept_size == sizeof kept) send_kept();
  if (kept_size == sizeof kept) return false;
  kept[kept_size++] = byte;
  if (byte == 0) send_kept();
  return true;
}

void hal_poll(bool resting) {
  struct pollfd both[2] = {{wire_in, POLLIN, 0}, {PINS_AT, 0, 0}};
  uint8_t bytes[256];
  ssize_t got;
  if (kept_size > 0 && kept[kept_size - 1] == 0) send_kept();
  if (poll(both, 2, resting && kept_size == 0 ? REST_MILLISECONDS : 0) <= 0) return;
  if ((both[0].revents | both[1].revents) & (POLLHUP | POLLERR)) exit(0);
  if (!(both[0].revents & POLLIN) || (got = read(wire_in, bytes, sizeof bytes)) <= 0) return;
  for (ssize_t i = 0; i < got; i++) pod_received(bytes[i]);
}

uint32_t hal_microseconds(void) {
  struct timespec now;
  clock_gettime(CLOCK_MONOTONIC, &now);
  return (uint32_t)now.tv_sec * 1000000u + (uint32_t)(now.tv_nsec / 1000);
}

uint32_t hal_rate(uint32_t hz) {
  uint8_t request[5] = {'R'}, reply[4];
  number(request + 1, hz);
  ask(request, 5, reply, 4);
  return number_at(reply);
}

void hal_cycles(unsigned count, const uint8_t *tms, const uint8_t *tdi, uint8_t *tdo) {
  uint8_t request[4 + 64] = {'C', (uint8_t)(count - 1), (uint8_t)((tms ? 1 : 0) | (tdi ? 2 : 0))}, reply[32];
  size_t bytes = (count + 7) / 8, size = 3;
  if (tms) memcpy(request + size, tms, bytes), size += bytes;
  if (tdi) memcpy(request + size, tdi, bytes), size += bytes;
  ask(request, size, reply, bytes);
  if (tdo) memcpy(tdo, reply, bytes);
}

void hal_pin(uint8_t pin, uint8_t level) {
  uint8_t request[3] = {'P', pin, level}, reply[1];
  ask(request, 3, reply, 1);
}

uint16_t hal_millivolts(void) {
  uint8_t request[1] = {'V'}, reply[2];
  ask(request, 1, reply, 2);
  return (uint16_t)(reply[0] | reply[1] << 8);
}

uint32_t hal_line_set(uint32_t rate, uint8_t form) {
  uint8_t request[6] = {'S'}, reply[4];
  number(request + 1, rate);
  request[5] = form;
  ask(request, 6, reply, 4);
  return number_at(reply);
}

bool hal_line_put(uint8_t byte) {
  uint8_t request[2] = {'W', byte}, reply[1];
  ask(request, 2, reply, 1);
  return reply[0] != 0;
}

int hal_line_get(void) {
  static uint32_t asked;
  uint8_t request[1] = {'G'}, size;
  if (line_at < line_size) return on_line[line_at++];
  if (hal_microseconds() - asked < LINE_MICROSECONDS) return -1;
  asked = hal_microseconds();
  ask(request, 1, &size, 1);
  line_size = size;
  line_at = 0;
  if (size == 0) return -1;
  request[0] = 'B';
  ask(request, 1, on_line, size);
  return on_line[line_at++];
}

static void open_terminal(void) {
  struct termios raw;
  int own = posix_openpt(O_RDWR | O_NOCTTY), other;
  if (own < 0 || grantpt(own) || unlockpt(own)) {
    perror("no pseudo-terminal");
    exit(1);
  }
  /* Held open, so that whoever opens it later finds it raw, and may come and go. */
  other = open(ptsname(own), O_RDWR | O_NOCTTY);
  tcgetattr(other, &raw);
  raw.c_iflag = raw.c_oflag = raw.c_lflag = 0;
  raw.c_cc[VMIN] = 1;
  tcsetattr(other, TCSANOW, &raw);
  wire_in = wire_out = own;
  printf("%s\n", ptsname(own));
  fflush(stdout);
}

int main(int count, char **words) {
  uint8_t request[1] = {'A'}, about[10 + 24];
  ask(request, 1, about, sizeof about);
  about_host.can = (uint16_t)(about[0] | about[1] << 8);
  about_host.least_hz = number_at(about + 2);
  about_host.most_hz = number_at(about + 6);
  memcpy(name, about + 10, 24);
  if (count < 2 || strcmp(words[1], "--stdio") != 0) open_terminal();
  fcntl(wire_in, F_SETFL, fcntl(wire_in, F_GETFL) | O_NONBLOCK);
  pod_begin();
  for (;;) pod_turn();
}
