// `nimble serial` as somebody calls it: a bench in the process, a design of one's own and the demo's.
import { readFileSync, writeFileSync } from 'node:fs';
import { beforeAll, describe, expect, test } from 'vitest';
import { nimbleCommand } from '../support/command.ts';
import { RECEIVER, SENDER } from '../support/serial-designs.ts';

const command = nimbleCommand();
const { nimble, run, at } = command;

/** Says back what it hears at 57 600 bit/s; from CV25 at 12 MHz. */
const ECHO = `module echo(input clk, input rx, output tx);
  wire [7:0] data; wire got;
  receiver #(.CLOCKS(208)) u_in(.clk(clk), .line(rx), .data(data), .got(got));
  reg [7:0] kept = 0; reg full = 0; wire busy;
  sender #(.CLOCKS(208)) u_out(.clk(clk), .data(kept), .go(full && !busy), .busy(busy), .line(tx));
  always @(posedge clk) if (got) begin kept <= data; full <= 1; end else if (!busy) full <= 0;
endmodule
`;
const BENCH = {
  chain: [{ kind: 'corvane', part: 'CV25' }],
  board: { oscillators: [{ name: 'X', pin: 'P1', hz: 12e6 }], serial: { tx: 'P3', rx: 'P4' } },
};

beforeAll(() => {
  writeFileSync(at('echo.v'), ECHO + SENDER + RECEIVER);
  writeFileSync(at('pins.csv'), 'clk,P1\nrx,P4\ntx,P3\n');
  writeFileSync(at('one.bench.json'), JSON.stringify(BENCH));
  const built = run('build', at('echo.v'), '--part', 'CV25', '--pins', at('pins.csv'), '--out', at('echo.nbits'));
  if (built.status !== 0) throw new Error(built.stderr);
  const demo = run('build', 'demo/lockhouse', '--out', at('lock.nbits'));
  if (demo.status !== 0) throw new Error(demo.stderr);
});

const here = () => ['--bench', at('one.bench.json'), '--load', at('echo.nbits')];

describe('the serial line by command', () => {
  test('what is sent comes back, as text and as hexadecimal digits, and is written down byte for byte', () => {
    const { status, json } = nimble(
      ...['serial', ...here(), '--baud', '57600', '--send', 'hello', '--line-end', 'cr-lf'],
      ...['--until', 'hello\r\n', '--timeout', '5s', '--log', at('heard.bin'), '--json'],
    );
    expect(status).toBe(0);
    expect(json).toMatchObject({ found: true, sent: 7, received: 7, wrong: 0 });
    expect(json.lines).toMatchObject([
      { way: 'out', text: 'hello' },
      { way: 'in', text: 'hello', hex: '68 65 6C 6C 6F 0D 0A' },
    ]);
    expect(readFileSync(at('heard.bin'), 'utf8')).toBe('hello\r\n');
    const shown = run('serial', ...here(), '--baud', '57600', '--send-hex', '00 FF 41', '--hex', '--timeout', '1s');
    expect(shown.stdout).toBe('> 00 FF 41\n00 FF 41\n');
  });

  test('a file of any bytes goes whole', () => {
    writeFileSync(
      at('any.bin'),
      Uint8Array.from({ length: 300 }, (_, i) => (i * 7) & 0xff),
    );
    const { json } = nimble(
      ...['serial', ...here(), '--baud', '57600', '--send-file', at('any.bin'), '--timeout', '1s', '--json'],
    );
    expect(json).toMatchObject({ sent: 300, received: 300, wrong: 0 });
  });

  test('at a wrong speed it says which settings fit; a text that does not come ends with 1', () => {
    const lock = ['--bench', 'demo/benches/lockhouse.bench.json', '--load', at('lock.nbits')];
    const { status, stderr } = run(...['serial', ...lock, '--baud', '9600', '--until', 'ready', '--timeout', '1s']);
    expect(status).toBe(1);
    expect(stderr).toContain('"ready" did not come within 1s');
    expect(stderr).toContain('115 200 8N1 fits what comes; you are at 9 600 8N1.');
    const right = nimble('serial', ...lock, '--until', 'Lockhouse 7 ready', '--timeout', '5s', '--json');
    expect([right.status, right.json.found]).toEqual([0, true]);
    expect(right.json.fits).toMatchObject({ text: '115 200 8N1', wrong: 0 });
  });

  test('wrong calls exit with 2 and say what to write instead', () => {
    const wrong = (...args: string[]) => {
      const { status, stderr } = run('serial', ...args);
      return `${status} ${stderr.trim()}`;
    };
    const bench = ['--bench', at('one.bench.json')];
    expect(wrong(...bench, '--json')).toContain('2 With --json, say how long to listen');
    expect(wrong(...bench, '--timeout', '2')).toContain('2 --timeout takes a time with its unit');
    expect(wrong(...bench, '--timeout', '1s', '--baud', 'fast')).toContain('2 --baud:');
    expect(wrong(...bench, '--timeout', '1s', '--bits', '9')).toContain('2 --bits:');
    expect(wrong(...bench, '--send-hex', '4G')).toContain('2 --send-hex takes pairs of hexadecimal digits');
    expect(wrong(...bench, '--line-end', 'crlf')).toContain('2 --line-end takes none, lf, cr or cr-lf');
    expect(wrong('--timeout', '1s')).toContain('2 Say either --bench FILE or --pod ADDRESS.');
    const none = ['--bench', 'demo/benches/chain-yard.bench.json', '--timeout', '1s'];
    expect(wrong(...none)).toContain('1 There is no serial line at demo/benches/chain-yard.bench.json.');
  });
});
