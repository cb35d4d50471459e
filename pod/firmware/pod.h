/* A pod on a serial line, for any chip that hal.h is filled in for. docs/wire.md */
#ifndef POD_H
#define POD_H

#include <stdint.h>

/* Once, after the chip's own start. */
void pod_begin(void);
/* For ever. */
void pod_turn(void);
/* A byte from the wire: from hal_poll, or from an interrupt where 16-bit loads are whole. */
void pod_received(uint8_t byte);

#endif
