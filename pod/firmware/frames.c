#include "frames.h"

#include "hal.h"
#include "pod.h"

enum { HEAD_MOST = 12, WORK_HEAD = 3, CHECK = 2, TOLD_AT = IN_SIZE / 2, TOLD_FROM = 128 };

struct heard heard;

static bool session;
static enum why_lost lost_why;
/* CRC-16/IBM-3740, four bits at a time: the table is the polynomial 0x1021 times 0 to 15. */
static uint16_t check_with(uint16_t check, uint8_t byte) {
  static const uint16_t by_nibble[16] = {0x0000, 0x1021, 0x2042, 0x3063, 0x4084, 0x50a5, 0x60c6, 0x70e7,
                                         0x8108, 0x9129, 0xa14a, 0xb16b, 0xc18c, 0xd1ad, 0xe1ce, 0xf1ef};
  check = (uint16_t)(check << 4) ^ by_nibble[(check >> 12) ^ (byte >> 4)];
  return (uint16_t)(check << 4) ^ by_nibble[(check >> 12) ^ (byte & 15)];
}

/* In: work that waits lies in a ring, each with two bytes of length before it. A frame is written behind what waits
   while it comes, and counts only when its check was right. */
static uint8_t in[IN_SIZE];
static volatile uint16_t in_head, in_tail;
static uint16_t in_fill;
static volatile uint8_t expect; /* sequence number of the next frame */
static volatile uint8_t acked;  /* of the first answer that the other end has not got */
static volatile uint8_t poll_number;
static volatile bool again, tell_state;
static bool asked_again;
static uint8_t head[HEAD_MOST];
static uint16_t length, check_in;
static uint8_t block, block_left;
static bool spoilt;

static uint16_t in_after(uint16_t at, uint16_t by) { return (uint16_t)((at + by) % IN_SIZE); }

static void next_frame(void) {
  length = block = block_left = 0;
  check_in = 0xffff;
  spoilt = false;
  in_fill = in_after(in_head, 2);
}

static void byte_in(uint8_t byte) {
  check_in = check_with(check_in, byte);
  if (++length > FRAME_MOST) spoilt = true;
  if (spoilt) return;
  if (length <= WORK_HEAD || (head[0] != WORK && length <= HEAD_MOST)) {
    head[length - 1] = byte;
    return;
  }
  if (head[0] != WORK || (in_head + IN_SIZE - in_tail) % IN_SIZE + length + 2 > IN_SIZE) {
    spoilt = true;
    return;
  }
  in[in_fill] = byte;
  in_fill = in_after(in_fill, 1);
}

static void ask_again(void) { again = asked_again = tell_state = true; }

static void work_in(void) {
  uint16_t size = length - WORK_HEAD - CHECK;
  int8_t ahead = (int8_t)(uint8_t)(head[1] - expect);
  acked = head[2];
  if (ahead > 0 && !asked_again) ask_again();
  if (ahead != 0) return;
  in[in_head] = (uint8_t)size;
  in[in_after(in_head, 1)] = (uint8_t)(size >> 8);
  in_head = in_after(in_head, (uint16_t)(size + 2));
  expect++;
  asked_again = false;
}

static void whole_frame_in(void) {
  uint16_t size = length - CHECK;
  heard.when = hal_microseconds();
  if (head[0] == HELLO && size == 8) {
    heard.session = head[2] | (uint32_t)head[3] << 8 | (uint32_t)head[4] << 16 | (uint32_t)head[5] << 24;
    heard.quiet = (uint16_t)(head[6] | head[7] << 8);
    heard.hello = true;
  } else if (!session) tell_state = true;
  else if (head[0] == WORK && size > WORK_HEAD) work_in();
  else if (head[0] == POLL && size == 4) {
    acked = head[1];
    if (head[3]) {
      poll_number = head[2];
      heard.poll = tell_state = true;
    }
  } else if (head[0] == BYE && size == 1) heard.bye = true;
}

/* @source Cheshire and Baker, Consistent Overhead Byte Stuffing, 1999 */
void pod_received(uint8_t byte) {
  if (heard.hello) return; /* whoever says hello waits for the answer */
  if (byte == 0) {
    if (length > 0 || block) {
      if (!spoilt && block_left == 0 && length > CHECK && check_in == 0) whole_frame_in();
      else if (session) ask_again();
    }
    next_frame();
  } else if (block_left == 0) {
    if (block != 0 && block != 0xff) byte_in(0);
    block = byte;
    block_left = byte - 1;
  } else {
    block_left--;
    byte_in(byte);
  }
}

/* Out: answers lie in a ring as they are sent, check and all, until the other end says that it has them. */
static uint8_t out[OUT_SIZE];
static uint16_t out_head, out_tail, out_next, out_fill;
static uint8_t telling[TELLING_MOST];
static bool tell_ready, sends_telling, sends, waits;
static uint16_t from_at, from_size, sent;
static uint8_t run, run_left, waiting;
static uint8_t doing; /* sequence number of the work that is carried out now, or next */
static uint16_t work_size, untold;

static uint16_t out_after(uint16_t at, uint16_t by) { return (uint16_t)((at + by) % OUT_SIZE); }
static uint16_t out_size(uint16_t at) { return (uint16_t)(out[at] | out[out_after(at, 1)] << 8); }

/* Room of answers that have arrived; one that is being sent again stays until it is out. */
static void forget_acked(void) {
  while (out_tail != out_head && (int8_t)(uint8_t)(out[out_after(out_tail, 3)] - acked) < 0) {
    if (sends && !sends_telling && out_tail == from_at) return;
    bool is_next = out_next == out_tail;
    out_tail = out_after(out_tail, (uint16_t)(out_size(out_tail) + 2));
    if (is_next) out_next = out_tail;
  }
}

static uint16_t put_number(uint16_t at, uint32_t value, uint8_t bytes) {
  for (; bytes--; value >>= 8) telling[at++] = (uint8_t)value;
  return at;
}

static uint16_t ready_frame(void) {
  telling[0] = READY;
  uint16_t size = put_number(1, heard.session, 4);
  telling[size++] = VERSION;
  size = put_number(size, hal_about->can, 2);
  size = put_number(size, FRAME_MOST, 2);
  size = put_number(size, IN_SIZE - 8, 2);
  size = put_number(size, OUT_SIZE - 8, 2);
  size = put_number(size, hal_about->least_hz, 4);
  size = put_number(size, hal_about->most_hz, 4);
  for (const char *at = hal_about->name; *at && size < TELLING_MOST - CHECK; at++) telling[size++] = (uint8_t)*at;
  return size;
}

static uint16_t state_frame(void) {
  uint8_t flags = again;
  tell_state = again = false;
  if (!session) {
    telling[0] = LOST;
    telling[1] = (uint8_t)lost_why;
    return 2;
  }
  untold = 0;
  telling[0] = STATE;
  telling[1] = doing;
  telling[2] = expect;
  telling[3] = poll_number;
  telling[4] = flags;
  return 5;
}

static uint8_t sent_byte(uint16_t at) {
  return sends_telling ? telling[at] : out[out_after(from_at, (uint16_t)(at + 2))];
}

/* Chooses what is sent next: what is told at once, then answers, then the line. */
static bool choose(uint8_t (*tell_line)(uint8_t *body)) {
  uint16_t size = 0;
  forget_acked();
  if (heard.poll) {
    heard.poll = false;
    out_next = out_tail;
  }
  if (tell_ready) size = ready_frame();
  else if (tell_state) size = state_frame();
  else if (out_next == out_head && session) {
    size = tell_line(telling + 1);
    if (size > 0) telling[0] = LINE, size++;
  }
  tell_ready = false;
  sends_telling = size > 0;
  if (sends_telling) {
    uint16_t check = 0xffff;
    for (uint16_t i = 0; i < size; i++) check = check_with(check, telling[i]);
    telling[size] = (uint8_t)(check >> 8);
    telling[size + 1] = (uint8_t)check;
    from_size = size + CHECK;
  } else if (out_next != out_head) {
    from_at = out_next;
    from_size = out_size(from_at);
    out_next = out_after(from_at, (uint16_t)(from_size + 2));
  } else return false;
  sent = run = run_left = 0;
  return true;
}

/* The next byte of the frame that is sent, stuffed; the 0 behind it ends the sending. */
static uint8_t stuffed(void) {
  if (run_left > 0) {
    run_left--;
    return sent_byte(sent++);
  }
  if (run != 0 && run != 0xff) sent++; /* the 0 that a block stands for, or the one that is thought behind the last */
  if (sent > from_size || (run == 0xff && sent == from_size)) {
    sends = false;
    return 0;
  }
  for (run = 1; run < 0xff && sent + run - 1 < from_size && sent_byte((uint16_t)(sent + run - 1)) != 0;) run++;
  run_left = run - 1;
  return run;
}

void frames_send(uint8_t (*tell_line)(uint8_t *body)) {
  for (;;) {
    if (!waits) {
      if (!sends && !(sends = choose(tell_line))) return;
      waiting = stuffed();
      waits = true;
    }
    if (!hal_wire_put(waiting)) return;
    waits = false;
  }
}

bool frames_resting(void) {
  return !sends && !waits && !tell_ready && !tell_state && out_next == out_head && in_tail == in_head;
}

void frames_begin(bool in_session, enum why_lost why) {
  session = in_session;
  lost_why = why;
  in_head = in_tail = out_head = out_tail = out_next = 0;
  expect = acked = poll_number = doing = 0;
  untold = 0;
  again = tell_state = asked_again = sends = false;
  tell_ready = in_session;
  waits = true; /* a 0 ends whatever was on its way */
  waiting = 0;
  next_frame();
  heard.hello = heard.bye = heard.poll = false;
}

bool work_begin(void) {
  out_fill = out_after(out_head, 4);
  if (in_tail == in_head || !answer_fits(HEAD_MOST)) return false;
  work_size = (uint16_t)(in[in_tail] | in[in_after(in_tail, 1)] << 8);
  in_tail = in_after(in_tail, 2);
  untold = (uint16_t)(untold + work_size + 2);
  return true;
}

uint16_t work_left(void) { return work_size; }

uint8_t work_take(void) {
  uint8_t byte = in[in_tail];
  in_tail = in_after(in_tail, 1);
  work_size--;
  return byte;
}

bool answer_fits(uint16_t bytes) {
  forget_acked();
  /* Two stretches, each less than the ring: what waits, and what has been put since. */
  uint16_t waiting_bytes = (uint16_t)((out_head + OUT_SIZE - out_tail) % OUT_SIZE);
  return waiting_bytes + (out_fill + OUT_SIZE - out_head) % OUT_SIZE + bytes + CHECK < OUT_SIZE;
}

void answer_put(uint8_t byte) {
  out[out_fill] = byte;
  out_fill = out_after(out_fill, 1);
}

/* Puts kind and number before the answer and its check behind it. One that says nothing is told by the state alone. */
void answer_end(uint8_t fault, uint16_t at) {
  uint16_t body = out_after(out_head, 4), size;
  if (fault) {
    out_fill = body;
    answer_put(fault);
    answer_put((uint8_t)at);
    answer_put((uint8_t)(at >> 8));
  }
  size = (uint16_t)((out_fill + OUT_SIZE - body) % OUT_SIZE);
  in_tail = in_after(in_tail, work_size);
  work_size = 0;
  if (size > 0) {
    uint16_t check = check_with(check_with(0xffff, fault ? FAULT : DONE), doing);
    out[out_after(out_head, 2)] = fault ? FAULT : DONE;
    out[out_after(out_head, 3)] = doing;
    for (uint16_t i = 0; i < size; i++) check = check_with(check, out[out_after(body, i)]);
    out[out_fill] = (uint8_t)(check >> 8);
    out[out_after(out_fill, 1)] = (uint8_t)check;
    size += 2 + CHECK;
    out[out_head] = (uint8_t)size;
    out[out_after(out_head, 1)] = (uint8_t)(size >> 8);
    out_head = out_after(out_head, (uint16_t)(size + 2));
  }
  /* Room for work is told at once where the answer takes long to arrive. */
  if (!fault && (untold >= TOLD_AT || in_tail == in_head || size >= TOLD_FROM)) tell_state = true;
  doing++;
}
