/* Frames on the wire, both ways: stuffing, check, order, and what waits to be carried out or to be heard. Knows no
   cable. docs/wire.md, sections 2 and 3 */
#ifndef FRAMES_H
#define FRAMES_H

#include <stdbool.h>
#include <stdint.h>

enum { VERSION = 1 };
enum { FRAME_MOST = 400, IN_SIZE = 1600, OUT_SIZE = 1600, TELLING_MOST = 52 };

enum kind { HELLO = 1, WORK, POLL, BYE, READY = 0x81, DONE, STATE, LOST, LINE, FAULT };
enum why_lost { STARTED = 1, LET_GO = 2 };

/* What came and is no work. Cleared by whoever has heeded it. */
struct heard {
  volatile bool hello, bye, poll;
  uint32_t session;
  uint16_t quiet; /* milliseconds */
  volatile uint32_t when; /* microseconds, of the last whole frame */
};
extern struct heard heard;

void frames_begin(bool in_session, enum why_lost why);

/* Sends as much as the wire takes. `tell_line` is asked for bytes of the second line where nothing else waits. */
void frames_send(uint8_t (*tell_line)(uint8_t *body));
bool frames_resting(void);

/* Work: its bytes one after another. False where none waits, or its answer might find no room. */
bool work_begin(void);
uint16_t work_left(void);
uint8_t work_take(void);

/* The answer to the work that was begun: what fits is put. */
bool answer_fits(uint16_t bytes);
void answer_put(uint8_t byte);
void answer_end(uint8_t fault, uint16_t at);

#endif
