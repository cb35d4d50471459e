/* What a chip has to bring: ten functions and one table. docs/wire.md, section 6, says how to fill them in. */
#ifndef HAL_H
#define HAL_H

#include <stdbool.h>
#include <stdint.h>

/* Bits of hal_about.can: what is wired beside TCK, TMS, TDI and TDO. */
enum { CAN_TRST = 1, CAN_SRST = 2, CAN_RECONFIGURE = 4, CAN_POWER = 8, CAN_MEASURE = 16, CAN_LINE = 32 };

/* Pins that are set one by one. PIN_JTAG is TCK, TMS and TDI together; PIN_LINE the line's transmitter, for a break. */
enum { PIN_JTAG, PIN_TRST, PIN_SRST, PIN_RECONFIGURE, PIN_POWER, PIN_LINE, PINS };
enum { LEVEL_LOW, LEVEL_HIGH, LEVEL_LET_GO };

struct hal_about {
  const char *name; /* at most 24 characters */
  uint16_t can;
  uint32_t least_hz, most_hz; /* of TCK */
};
extern const struct hal_about *const hal_about;

/* Called whenever there is time. May hand over bytes of the wire by pod_received, where no interrupt does, and may
   sleep for up to 20 ms where `resting` says that nothing waits to be done. */
void hal_poll(bool resting);

/* A clock that runs through all 32 bits. */
uint32_t hal_microseconds(void);
/* Hands a byte to the wire's transmitter; false where it has no room just now. */
bool hal_wire_put(uint8_t byte);
/* Sets TCK to the nearest rate at or below, in hertz; gives it. */
uint32_t hal_rate(uint32_t hz);

/* `count` cycles of TCK, 256 at most, bits lowest first. TMS and TDI change while TCK is low, TDO is read just before
   it rises. TMS is 0 where `tms` is null, TDI 1 where `tdi` is; nobody wants TDO where `tdo` is null. Bits of it beyond
   `count` are 0. */
void hal_cycles(unsigned count, const uint8_t *tms, const uint8_t *tdi, uint8_t *tdo);

void hal_pin(uint8_t pin, uint8_t level);

/* The board's reference voltage. */
uint16_t hal_millivolts(void);

/* The second serial line: rate in bit/s, `form` as in docs/wire.md, section 4; gives the rate that was set. */
uint32_t hal_line_set(uint32_t rate, uint8_t form);
bool hal_line_put(uint8_t byte);
/* The next byte that came; -1 where there is none. */
int hal_line_get(void);

#endif
