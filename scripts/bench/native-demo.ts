// The demo's design as a person writes it in C, clock by clock, for the comparison with the fabric.
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Compared } from './compared.ts';

const FOLDER = 'demo/lockhouse/rtl';

/** Its inputs come from one counter; both of its clocks are the same one. Every 16th clock goes into a sum. */
export const lockhouseInC = (): Compared => ({
  name: 'the demo',
  verilog: `${readdirSync(FOLDER)
    .map((file) => readFileSync(join(FOLDER, file), 'utf8'))
    .join('\n')}
    module m(input clk, output [31:0] x);
      reg [23:0] t = 0; reg [31:0] sum = 0;
      wire [7:0] lamp, segment; wire [3:0] common; wire sck, cs_n, mosi, a, b, c, d, e;
      lockhouse l(clk, {2'b00, t[20:18] == 5, t[20:18] == 1}, {2'b00, t[22], 1'b1}, clk, sck, cs_n, mosi, t[7] ^ t[13],
        a, b, c, d, e, lamp, segment, common);
      always @(posedge clk) begin
        t <= t + 1;
        if (t[3:0] == 0) sum <= sum * 3 + {a, b, c, d, sck, cs_n, mosi, common, segment, lamp};
      end
      assign x = sum;
    endmodule`,
  before: `
    static const uint8_t glyph[16] = {63, 6, 91, 79, 102, 109, 125, 7, 127, 111, 64, 64, 64, 64, 64, 64};
    static uint16_t history[256]; uint8_t at = 0; uint16_t level = 0, oldest = 0;
    uint32_t t = 0, sum = 0, beat = 0, count = 0; int tick = 0;
    struct { unsigned sync, steady, quiet, pressed; } press[2] = {{0}};
    enum { REST, RAISE, UPPER_OPEN, LOWER, LOWER_OPEN }; unsigned state = REST, patience = 0; uint16_t passages = 0;
    int full = 0, empty = 0, downward = 0, entered = 0, wantUpper = 0, wantLower = 0;
    unsigned turn = 0, shift = 0, data = 0; int sck = 0, cs = 1, mosi = 0, low = 0, channel = 0, sent = 0;
    unsigned arrived = 0, chamber = 0, pond = 400;
    unsigned slot = 0, rest = 0, th = 0, hu = 0, te = 0, shown = 0, segment = 0, common = 0;`,
  cycle: `
    if ((t & 15) == 0) {
      unsigned up = state == RAISE && !full, down = state == LOWER && !empty;
      unsigned gu = state == UPPER_OPEN, gl = state == LOWER_OPEN;
      unsigned lamp = (beat >> 22 & 1) << 7 | (beat >> 23 & 1) << 6 | state << 3 | gl << 2 | gu << 1 | (up | down);
      sum = sum * 3 + (up << 26 | down << 25 | gu << 24 | gl << 23 | sck << 22 | cs << 21 | mosi << 20 | common << 16 |
        segment << 8 | lamp);
    }
    if ((slot & 15) == 0) {
      segment = (level > oldest && slot >> 12 == 0) << 7 | glyph[shown >> (slot >> 12) * 4 & 15];
      common = 1u << (slot >> 12);
      if (slot == 0) {
        shown = th << 12 | hu << 8 | te << 4 | (rest & 15);
        rest = t >> 22 & 1 ? passages : level;
        th = hu = te = 0;
      } else if (rest >= 1000) { rest -= 1000; th++; }
      else if (rest >= 100) { rest -= 100; hu++; }
      else if (rest >= 10) { rest -= 10; te++; }
    }
    slot = (slot + 1) & 0x3fff;
    uint16_t old = history[at];
    if (tick) {
      history[at++] = level;
      if (chamber > level && level < 400) level++;
      else if (chamber < level && level != 0) level--;
    }
    oldest = old;
    int wasFull = full, wasEmpty = empty;
    if ((beat & 0x3ff) == 0x3ff) {
      int diff = (int)((pond - chamber) << 20) >> 20;
      full = diff <= 4;
      empty = chamber <= 4;
    }
    beat = (beat + 1) & 0xffffff;
    int hadUpper = wantUpper, hadLower = wantLower;
    if (press[0].pressed) wantUpper = 1;
    if (press[1].pressed) wantLower = 1;
    switch (state) {
      case REST:
        if (hadUpper) { wantUpper = 0; downward = 1; entered = 0; state = RAISE; }
        else if (hadLower) { wantLower = 0; downward = 0; entered = 0; state = LOWER; }
        break;
      case RAISE: if (wasFull) { state = UPPER_OPEN; patience = 200; } break;
      case LOWER: if (wasEmpty) { state = LOWER_OPEN; patience = 200; } break;
      default:
        if (!tick) break;
        if (patience == 0) {
          if (entered) { passages++; state = REST; }
          else { entered = 1; state = downward ? LOWER : RAISE; }
        }
        patience = (patience - 1) & 0x1ff;
    }
    for (int i = 0; i < 2; i++) {
      unsigned sync = press[i].sync >> 1;
      press[i].sync = (press[i].sync << 1 & 2) | ((t >> 18 & 7) == (i ? 5 : 1));
      press[i].pressed = 0;
      if (sync == press[i].steady) press[i].quiet = 0;
      else {
        if (press[i].quiet == 0x3fff) { press[i].steady = sync; press[i].pressed = sync; }
        press[i].quiet = (press[i].quiet + 1) & 0x3fff;
      }
    }
    tick = count >= 5999;
    count = tick ? 0 : count + 1;
    if ((arrived >> 2 & 1) != (arrived >> 1 & 1)) {
      unsigned *of = channel ? &pond : &chamber;
      *of = low ? (*of & 0xf00) | data : (*of & 0xff) | (data & 15) << 8;
    }
    arrived = (arrived << 1 & 7) | sent;
    int clocking = (turn >> 8 & 31) == 2;
    cs = (turn >> 10 & 7) != 0;
    mosi = turn >> 13;
    sck = clocking && (turn >> 3 & 1);
    if (clocking && (turn & 15) == 7) {
      unsigned byte = shift << 1 | ((t >> 7 ^ t >> 13) & 1);
      if ((turn >> 4 & 7) == 7) { data = byte; low = turn >> 7 & 1; channel = turn >> 13; sent = !sent; }
      shift = byte & 0x7f;
    }
    turn = (turn + 1) & 0x3fff;
    t = (t + 1) & 0xffffff;
    x = sum;`,
  cycles: 40_000_000,
});
