/* Carries out what frames bring, and lets go of the board when nobody speaks any more. */
#include "pod.h"

#include "frames.h"
#include "hal.h"

enum { PIECE = 32, MOST_LINE = 32 };

/* Upper three bits of a command. docs/wire.md, section 4 */
enum command { TMS, SHIFT, CLOCK, WAIT, PIN, RATE, MEASURE, LINE_WORK };
enum { CAPTURE = 1, EXIT = 2, ZEROS = 4, ONES = 8 };
enum fault { NO_FAULT, SHORT, UNKNOWN, TOO_MUCH };

static bool session;
static uint32_t piece_bits; /* about 4 ms of TCK, so that the wire is heard meanwhile */
static uint8_t tms[PIECE], tdi[PIECE], tdo[PIECE];
static enum fault fault;
static uint16_t answered;
static uint16_t line_number; /* bytes of the second line so far */

static uint8_t take(void) {
  if (work_left() == 0) {
    fault = SHORT;
    return 0;
  }
  return work_take();
}

static uint32_t take_number(uint8_t bytes) {
  uint32_t value = 0;
  for (uint8_t i = 0; i < bytes; i++) value |= (uint32_t)take() << (8 * i);
  return value;
}

static bool go_on(bool resting);

/* Until answers before this one have arrived; false where nobody wants it any more. */
static bool wait_for_room(uint16_t bytes) {
  while (!answer_fits(bytes))
    if (!go_on(false)) return false;
  return true;
}

static void put(uint8_t byte) {
  if (++answered > FRAME_MOST - 8) fault = TOO_MUCH;
  else answer_put(byte);
}

static void put_number(uint32_t value, uint8_t bytes) {
  if (!wait_for_room(bytes)) return;
  for (; bytes--; value >>= 8) put((uint8_t)value);
}

static uint8_t tell_line(uint8_t *body) {
  uint8_t size = 2;
  int byte = hal_about->can & CAN_LINE ? hal_line_get() : -1;
  for (; byte >= 0; byte = size < MOST_LINE ? hal_line_get() : -1) body[size++] = (uint8_t)byte;
  if (size == 2) return 0;
  body[0] = (uint8_t)line_number;
  body[1] = (uint8_t)(line_number >> 8);
  line_number += size - 2;
  return size;
}

/* The JTAG pins and the resets are nobody's; supply and line stay, for the board may be at work. */
static void let_go(void) {
  for (uint8_t pin = PIN_JTAG; pin <= PIN_RECONFIGURE; pin++) hal_pin(pin, LEVEL_LET_GO);
  session = false;
}

static void set_rate(uint32_t hz) {
  uint32_t real = hal_rate(hz);
  piece_bits = real / 256 / 8 * 8;
  if (piece_bits < 8) piece_bits = 8;
  if (piece_bits > 8 * PIECE) piece_bits = 8 * PIECE;
  put_number(real, 4);
}

/* Heeds the wire; false where what is carried out is not wanted any more. */
static bool go_on(bool resting) {
  hal_poll(resting);
  frames_send(tell_line);
  if (heard.bye || (session && hal_microseconds() - heard.when > heard.quiet * 1000ul)) {
    bool is_quiet = !heard.bye;
    let_go();
    frames_begin(false, is_quiet ? LET_GO : STARTED);
  }
  return session && !heard.hello;
}

static void shift(uint8_t flags) {
  uint32_t left = take_number(2);
  const uint8_t fill = flags & ONES ? 0xff : 0;
  bool is_given = !(flags & (ZEROS | ONES));
  while (left > 0 && !fault && go_on(false)) {
    unsigned count = left > piece_bits ? piece_bits : left, bytes = (count + 7) / 8;
    bool leaves = (flags & EXIT) && count == left;
    for (unsigned i = 0; i < bytes; i++) {
      tdi[i] = is_given ? take() : fill;
      tms[i] = 0;
    }
    if (fault || ((flags & CAPTURE) && !wait_for_room((uint16_t)bytes))) return;
    if (leaves) tms[(count - 1) / 8] = (uint8_t)(1u << ((count - 1) % 8));
    hal_cycles(count, leaves ? tms : 0, flags & ONES ? 0 : tdi, flags & CAPTURE ? tdo : 0);
    if (flags & CAPTURE)
      for (unsigned i = 0; i < bytes; i++) put(tdo[i]);
    left -= count;
  }
}

static void walk(uint8_t count) {
  for (uint8_t i = 0; i < (count + 7) / 8; i++) tms[i] = take();
  if (!fault) hal_cycles(count, tms, 0, 0);
}

static void clock(uint32_t count) {
  while (count > 0 && !fault && go_on(false)) {
    unsigned now = count > piece_bits ? piece_bits : count;
    hal_cycles(now, 0, 0, 0);
    count -= now;
  }
}

static void pause(uint32_t microseconds) {
  uint32_t since = hal_microseconds();
  while (!fault && hal_microseconds() - since < microseconds && go_on(false)) {
  }
}

static void line_work(uint8_t what) {
  uint8_t taken = 0;
  if (what == 0) {
    uint32_t rate = take_number(4);
    put_number(hal_line_set(rate, take()), 4);
    return;
  }
  /* What the line cannot take now has to be sent again; none overtakes another. */
  for (bool takes = true; what--;) {
    uint8_t byte = take();
    takes = takes && !fault && hal_line_put(byte);
    taken += takes;
  }
  put_number(taken, 1);
}

static void carry_out(void) {
  uint8_t command = take(), detail = command & 31;
  switch ((enum command)(command >> 5)) {
    case TMS: walk((uint8_t)(detail + 1)); break;
    case SHIFT: shift(detail); break;
    case CLOCK: clock(take_number(4)); break;
    case WAIT: pause(take_number(4)); break;
    case PIN:
      detail < PINS ? hal_pin(detail, take()) : (void)(fault = UNKNOWN);
      break;
    case RATE: set_rate(take_number(4)); break;
    case MEASURE: put_number(hal_about->can & CAN_MEASURE ? hal_millivolts() : 0xffff, 2); break;
    case LINE_WORK:
      hal_about->can & CAN_LINE ? line_work(detail) : (void)(fault = UNKNOWN);
      break;
  }
}

void pod_begin(void) {
  let_go();
  piece_bits = 8;
  frames_begin(false, STARTED);
}

void pod_turn(void) {
  uint16_t size, at = 0;
  if (heard.hello) {
    if (!session) hal_pin(PIN_JTAG, LEVEL_HIGH);
    session = true;
    line_number = 0;
    frames_begin(true, STARTED);
  }
  if (!go_on(frames_resting()) || !work_begin()) return;
  size = work_left();
  fault = NO_FAULT;
  answered = 0;
  while (work_left() > 0 && !fault && go_on(false)) {
    at = size - work_left();
    carry_out();
  }
  if (session && !heard.hello) answer_end((uint8_t)fault, at);
}
