// A processor of the open RISC-V RV32I instruction set sorts and computes a CRC in both readers of the language.
import { readFileSync } from 'node:fs';
import { crc32 } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { Bench, BenchCable, readBenchFile } from '../../bench/index.ts';
import { build } from '../../core/build/index.ts';
import { readBitstream } from '../../core/families/index.ts';
import { elaborate } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { drive, loadBitstream } from '../../core/operations/index.ts';
import { unwatched } from '../../core/progress.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { chanceFrom } from '../fuzz/index.ts';
import { chainOn } from '../support/chain-on.ts';
import { assembled } from '../support/rv32i.ts';
import { ran } from '../support/simulated.ts';

const CORE = readFileSync('tests/designs/rv32i.v', 'utf8');
const COUNT = 24;
const DATA = 0x200;
const LAST_WORD = 255 * 4;

/** Sorts words by insertion, then takes the CRC-32 of them (ITU-T V.42, reflected) and stores it as the last word. */
const PROGRAM = `
  addi x1, x0, ${DATA}
  addi x2, x0, 1
outer:
  addi x3, x0, ${COUNT}
  bge x2, x3, sorted
  slli x4, x2, 2
  add x4, x4, x1
  lw x5, 0(x4)
inner:
  beq x4, x1, place
  lw x6, -4(x4)
  bgeu x5, x6, place
  sw x6, 0(x4)
  addi x4, x4, -4
  jal x0, inner
place:
  sw x5, 0(x4)
  addi x2, x2, 1
  jal x0, outer
sorted:
  lui x7, 0xedb88
  addi x7, x7, 0x320
  addi x8, x0, -1
  addi x9, x1, 0
  addi x10, x1, ${COUNT * 4}
bytes:
  beq x9, x10, end
  lbu x11, 0(x9)
  xor x8, x8, x11
  addi x12, x0, 8
bits:
  andi x13, x8, 1
  srli x8, x8, 1
  beq x13, x0, even
  xor x8, x8, x7
even:
  addi x12, x12, -1
  bne x12, x0, bits
  addi x9, x9, 1
  jal x0, bytes
end:
  xori x8, x8, -1
  sw x8, ${LAST_WORD}(x0)
`;

const chance = chanceFrom(32);
const values = Array.from({ length: COUNT }, () => chance.below(2 ** 32));
const sorted = [...values].sort((a, b) => a - b);

function memory(): string {
  const words = new Array<number>(256).fill(0);
  for (const [i, word] of assembled(PROGRAM).entries()) words[i] = word;
  for (const [i, word] of values.entries()) words[DATA / 4 + i] = word;
  return words.map((word) => word.toString(16).padStart(8, '0')).join('\n');
}

const expected = crc32(Buffer.from(Uint32Array.from(sorted).buffer));
const files = [
  { name: 'rv32i.v', text: CORE },
  { name: 'program.hex', text: memory() },
];

describe('RV32I', () => {
  test('the assembler gives the words of the manual', () => {
    // From memory: addi x1, x0, 5 is 0x00500093; sw x5, 8(x2) is 0x00512423; jal x0, 0 is 0x0000006f.
    expect(assembled('addi x1, x0, 5\nsw x5, 8(x2)\nhere:\njal x0, here').map((word) => word.toString(16))).toEqual([
      '500093',
      '512423',
      '6f',
    ]);
  });
  test('in the fabric', () => {
    const { netlist, messages } = elaborate(files, { top: 'rv32i' });
    if (!netlist) throw new Error(messages.list.map((m) => m.message).join('\n'));
    const simulator = new Simulator(optimise(netlist).netlist, 'wasm');
    const clock = simulator.domain('clk');
    simulator.setInput('rst', 1n);
    simulator.step(clock, 2);
    simulator.setInput('rst', 0n);
    for (let i = 0; i < 100 && simulator.getOutput('done') === 0n; i++) simulator.step(clock, 200);
    expect(simulator.getOutput('result')).toBe(BigInt(expected));
  });
  test('in the event simulator, with its testbench', () => {
    const bench = `module bench; reg clk = 0, rst = 1; wire done; wire [31:0] result; integer i; rv32i cpu(.clk(clk), .rst(rst), .done(done), .result(result));
      always #5 clk = ~clk; initial begin repeat (2) @(posedge clk); #1 rst = 0; wait (done); $display("%h", result);
      for (i = 0; i < ${COUNT}; i = i + 1) $display("%h", cpu.memory[${DATA / 4} + i]); $finish; end endmodule`;
    const run = ran(bench, { top: 'bench', files: Object.fromEntries(files.map(({ name, text }) => [name, text])) });
    expect(run.ending).toBe('finish');
    const [crc, ...words] = run.output.trim().split('\n');
    expect(crc).toBe(expected.toString(16).padStart(8, '0'));
    expect(words).toEqual(sorted.map((word) => word.toString(16).padStart(8, '0')));
  });
  test('on the bench: built, loaded over JTAG, run by its oscillator, and read by gauges', async () => {
    const text = `module t(input clk, output lamp);
      reg [3:0] count = 0;
      wire done; wire [31:0] result;
      always @(posedge clk) if (!count[3]) count <= count + 1;
      rv32i cpu(.clk(clk), .rst(!count[3]), .done(done), .result(result));
      assign lamp = done;
    endmodule`;
    const { bitstream, messages, probes } = build({
      project: {
        file: {
          ...{ format: 'nimble-project', version: 3, name: 't', part: 'CV60', grade: 2, top: 't' },
          ...{ pins: 'pins.csv', clocks: { clk: 1e6 }, accepted: [] },
        },
        files: [...files, { name: 't.v', text }, { name: 'pins.csv', text: 'clk,A1\nlamp,A3\n' }],
      },
      plan: {
        recorders: [],
        panels: [{ name: 'p', clock: 't.clk', levers: [], gauges: ['t.done', 't.result'] }],
      },
    });
    expect(messages.filter(({ severity }) => severity === 'error').map(({ message }) => message)).toEqual([]);
    const read = readBitstream(bitstream ?? new Uint8Array());
    const desk = readBenchFile(
      JSON.stringify({
        chain: [{ kind: 'corvane', part: 'CV60' }],
        board: { oscillators: [{ name: 'X', pin: 'A1', hz: 1_000_000 }] },
      }),
      'desk',
    );
    if (!read.ok || !desk.ok || !probes) throw new Error('not built');
    const bench = new Bench(desk.value);
    const cable = new BenchCable(bench);
    const loaded = await loadBitstream(chainOn(cable), read.value, null, unwatched);
    expect(loaded).toMatchObject({ ok: true, value: { done: true } });
    bench.advance(30_000);
    const looked = await drive(chainOn(cable), { part: 'CV60', device: null, map: probes, set: {} });
    if (!looked.ok) throw new Error(looked.error.message);
    expect(looked.value.reading.gauges).toMatchObject({ 't.done': 1n, 't.result': BigInt(expected) });
  });
});
