// The demo's serial line on its bench: what it says, what it is told, and after the supply was gone.
import { describe, expect, test } from 'vitest';
import { readBitstream } from '../core/families/index.ts';
import { builtDemo } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';

const BANNER = 'Lockhouse 7 ready\r\n';
const read = readBitstream(builtDemo().bitstream);
if (!read.ok) throw new Error(read.error.message);
const { bench } = lockhouse(new Map([[1, read.value.stream.slice()]]));
const { serial } = bench;
if (!serial) throw new Error('the demo has no line');

function heard(milliseconds: number): string {
  bench.advance(milliseconds * 1000);
  const { frames } = serial?.take() ?? { frames: [] };
  return frames.map(({ value, trouble }) => (trouble === null ? String.fromCharCode(value) : '¿')).join('');
}
/** What comes until there is a line of it that ends, in so many milliseconds at most. */
function lineHeard(most: number): string {
  let text = '';
  for (let left = most; left > 0 && !text.endsWith('\n'); left -= 20) text += heard(20);
  return text;
}
const say = (text: string) => serial.send(new TextEncoder().encode(text));
const press = (name: string) => {
  bench.operate(name, true);
  bench.advance(30_000);
  bench.operate(name, false);
};

describe('the lock over its serial line', () => {
  test('booted from flash it says its banner, and the whole of it after each power-cycle', () => {
    expect(lineHeard(1000)).toBe(BANNER);
    for (let i = 0; i < 3; i++) {
      bench.setPower(false);
      expect(heard(200 + 3 * i)).toBe('');
      bench.setPower(true);
      expect(lineHeard(1000)).toBe(BANNER);
    }
  });

  test('the reset button starts it anew, and supply that goes in the middle of a byte leaves no byte behind', () => {
    press('B3');
    bench.advance(600);
    bench.setPower(false);
    // Half a banner, and what was on the line then is no frame of rubbish.
    expect(BANNER.startsWith(heard(200).replace(/.$/s, ''))).toBe(true);
    bench.setPower(true);
    expect(lineHeard(1000)).toBe(BANNER);
  });

  test('each passage is told of, and commands are answered', async () => {
    bench.operate('S0', true);
    await say('s');
    expect(heard(20)).toBe('level 0000 cm\r\n');
    press('B1');
    expect(lineHeard(8000)).toBe('passage 0001\r\n');
    await say('s\n');
    expect(heard(20)).toMatch(/^level 0(39|40)\d cm\r\n$/);
    await say('x');
    expect(heard(20)).toBe('?\r\n');
  });

  test('held by a command no passage begins, and one that waited begins when it goes on', async () => {
    await say('h');
    expect(heard(20)).toBe('hold\r\n');
    press('B0');
    expect(heard(500)).toBe('');
    await say('g');
    expect(lineHeard(100) + lineHeard(9000)).toBe('go\r\npassage 0002\r\n');
  });
});
