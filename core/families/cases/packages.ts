import { item } from '../../lists.ts';
import type { PackageDrawing, PackagePin } from '../package.ts';

/** Cases that the invented parts come in. */
const CASES = ['Q64', 'Q100', 'B196'] as const;

type Case = (typeof CASES)[number];

const BANKS = [0, 1, 2, 3] as const;

const CLOCK_PINS_A_BANK = 2;
const LEAD = 1;

/** docs/silicon.md, table 1b. The first two user pins of each bank reach the clock network. */
const QUADS: Readonly<
  Record<
    'Q64' | 'Q100',
    { readonly pins: number; readonly user: readonly number[]; readonly body: number; readonly pitch: number }
  >
> = {
  Q64: { pins: 64, user: [12, 12, 12, 12], body: 10, pitch: 0.5 },
  Q100: { pins: 100, user: [20, 20, 19, 19], body: 14, pitch: 0.5 },
};
const BALL_ROWS = 'ABCDEFGHJKLMNP';
const BALLS = 14;
const BALL_BODY = 15;
const USER_BALLS = 150;
const USER_RINGS = 4;

const isCase = (name: string): name is Case => (CASES as readonly string[]).includes(name);

const drawings = new Map<Case, PackageDrawing>();

/** A case by its name, seen from above. */
export function caseDrawing(name: string): PackageDrawing {
  if (!isCase(name)) throw new RangeError(`no case ${name}`);
  let drawing = drawings.get(name);
  if (!drawing) {
    drawing = name === 'B196' ? grid() : quad(name);
    drawings.set(name, drawing);
  }
  return drawing;
}

/** Pin 1 is uppermost on the left side; numbers run counter-clockwise seen from above (common practice). */
function quad(name: 'Q64' | 'Q100'): PackageDrawing {
  const { pins, user, body, pitch } = QUADS[name];
  const side = pins / 4;
  const first = (body - (side - 1) * pitch) / 2;
  const out = LEAD / 2;
  const place = (bank: number, i: number): { x: number; y: number } => {
    const along = first + i * pitch;
    switch (bank) {
      case 0:
        return { x: -out, y: along };
      case 1:
        return { x: along, y: body + out };
      case 2:
        return { x: body + out, y: body - along };
      default:
        return { x: body - along, y: -out };
    }
  };
  const all = BANKS.flatMap((bank) =>
    Array.from({ length: side }, (_, i): PackagePin => {
      const io = i < item(user, bank);
      return {
        name: `P${bank * side + i + 1}`,
        ...place(bank, i),
        kind: io ? 'io' : i % 2 === 0 ? 'supply' : 'config',
        bank: io ? bank : null,
        clock: io && i < CLOCK_PINS_A_BANK,
      };
    }),
  );
  return { name, style: 'quad', body, pitch, pins: all };
}

/** User balls are the outer rings; each belongs to the bank of the side it is nearest to. */
function grid(): PackageDrawing {
  const pitch = 1;
  const first = (BALL_BODY - (BALLS - 1) * pitch) / 2;
  let left = USER_BALLS;
  const seen = [0, 0, 0, 0];
  const pins = [...BALL_ROWS].flatMap((row, r) =>
    Array.from({ length: BALLS }, (_, c): PackagePin => {
      const io = Math.min(r, c, BALLS - 1 - r, BALLS - 1 - c) < USER_RINGS && left > 0;
      if (io) left--;
      const bank = nearestSide(r, c);
      const clock = io && item(seen, bank) < CLOCK_PINS_A_BANK;
      if (io) seen[bank] = item(seen, bank) + 1;
      return {
        name: `${row}${c + 1}`,
        x: first + c * pitch,
        y: first + r * pitch,
        kind: io ? 'io' : (r + c) % 5 === 0 ? 'config' : 'supply',
        bank: io ? bank : null,
        clock,
      };
    }),
  );
  return { name: 'B196', style: 'grid', body: BALL_BODY, pitch, pins };
}

/** Left, bottom, right, top, as the sides of a quad package are numbered. */
function nearestSide(row: number, column: number): number {
  const distances = [column, BALLS - 1 - row, BALLS - 1 - column, row];
  return distances.indexOf(Math.min(...distances));
}
