import { describe, expect, test } from 'vitest';
import { LINK } from '../netlist/index.ts';
import { elaborate } from '../hdl/index.ts';
import { type Netlist, optimise } from '../netlist/index.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { insertCores, missingNames, planOf, type ProbePlan, probePlan, readProbeMap } from './index.ts';
import { mapOf } from './map.ts';
import { debugVerilog } from './verilog.ts';

const PRINT = '0123456789abcdef0123456789abcdef';
const SOURCE = `module leaf(input clk, input [3:0] a, output reg [3:0] q);
  always @(posedge clk) q <= a + 1;
endmodule
module top(input clk, input [3:0] in, output [3:0] out, output [3:0] twice);
  wire [3:0] mid, spare;
  leaf u1 (.clk(clk), .a(in), .q(mid));
  leaf u2 (.clk(clk), .a(mid ^ spare), .q(out));
  assign twice = mid << 1;
endmodule`;

function design(): Netlist {
  const { netlist } = elaborate([{ name: 't.v', text: SOURCE }]);
  if (!netlist) throw new Error('does not elaborate');
  return netlist;
}

const panel = (levers: string[], gauges: string[]): ProbePlan => ({
  recorders: [],
  panels: [{ name: 'p', clock: 'top.clk', levers, gauges }],
});

describe('inserting cores', () => {
  test('leaves what the design does as it was while levers are released', () => {
    const [plain, probed] = [design(), design()];
    expect(
      insertCores(
        probed,
        {
          recorders: [{ name: 'r', clock: 'top.clk', depth: 16, signals: ['top.mid', 'top.u2.q'] }],
          panels: panel(['top.mid', 'top.u2.a'], ['top.out']).panels,
        },
        PRINT,
      ).ok,
    ).toBe(true);
    const [a, b] = [new Simulator(optimise(plain).netlist), new Simulator(optimise(probed).netlist)];
    for (let i = 0; i < 40; i++) {
      for (const sim of [a, b]) {
        sim.setInput('in', BigInt((i * 7) & 15));
        sim.step(sim.domain('clk'));
      }
      expect([b.getOutput('out'), b.getOutput('twice')]).toEqual([a.getOutput('out'), a.getOutput('twice')]);
    }
  });

  test('adds the link’s ports and nothing else to the outside', () => {
    const netlist = design();
    insertCores(netlist, panel([], ['top.mid']), PRINT);
    expect(
      netlist.inputs
        .map((p) => p.name)
        .filter((name) => name.startsWith('$'))
        .sort(),
    ).toEqual([LINK.capture, LINK.shift, LINK.tck, LINK.tdi, LINK.update].sort());
    expect(netlist.outputs.map((p) => p.name)).toEqual(['out', 'twice', LINK.tdo]);
  });

  test('gives every signal its place, without gaps or overlaps', () => {
    const made = insertCores(
      design(),
      {
        recorders: [{ name: 'r', clock: 'top.clk', depth: 32, signals: ['top.in', 'top.mid', 'top.u1.clk'] }],
        panels: panel(['top.spare', 'top.mid'], ['top.out', 'top.in']).panels,
      },
      PRINT,
    );
    expect(made.ok && made.value.cores).toMatchObject([
      {
        kind: 'recorder',
        core: 1,
        depth: 32,
        width: 9,
        signals: [
          { name: 'top.in', lo: 0, width: 4 },
          { name: 'top.mid', lo: 4 },
          { name: 'top.u1.clk', lo: 8, width: 1 },
        ],
      },
      {
        kind: 'panel',
        core: 2,
        leverBits: 8,
        enableBits: 1,
        gaugeBits: 8,
        levers: [
          { name: 'top.spare', lo: 0, enable: null },
          { name: 'top.mid', lo: 4, enable: 0 },
        ],
      },
    ]);
  });

  test('a recorder of few bits is padded to what its read-out needs', () => {
    const made = insertCores(
      design(),
      { recorders: [{ name: 'r', clock: 'top.clk', depth: 16, signals: ['top.clk'] }], panels: [] },
      PRINT,
    );
    expect(made.ok && made.value.cores[0]).toMatchObject({ width: 4 });
  });

  test('a recorder beside a stepper of its clock has two bits more, whatever name of the clock each goes by', () => {
    const recorder = { name: 'r', clock: 'top.u1.clk', depth: 16, signals: ['top.mid', 'top.u2.q[1:0]'] };
    const inserted = (plan: ProbePlan) => {
      const map = insertCores(design(), plan, PRINT);
      const [core] = map.ok ? map.value.cores : [];
      if (core?.kind !== 'recorder') throw new Error('there is no recorder');
      return core;
    };
    const held = inserted({ recorders: [recorder], panels: [], steppers: [{ name: 's', clock: 'top.clk' }] });
    expect(held).toMatchObject({ width: 8, stepper: 's' });
    expect(held.signals.map(({ name, lo, letThrough }) => [name, lo, letThrough ?? false])).toEqual([
      ['top.mid', 0, false],
      ['top.u2.q[1:0]', 4, false],
      ['let_through.top.u1.clk', 6, true],
    ]);
    // What it is built from again is what the plan said.
    expect(planOf(held)).toEqual({ ...recorder, comparators: 2, stages: 1 });
    expect(inserted({ recorders: [recorder], panels: [] })).toMatchObject({ width: 6, atTrigger: [] });
    const other = { ...recorder, clock: 'top.in' };
    expect(inserted({ recorders: [other], panels: [], steppers: [{ name: 's', clock: 'top.clk' }] }).width).toBe(6);
  });

  test('what is read once has a word of its own, is asked for by name, and has to be there', () => {
    const recorder = {
      name: 'r',
      clock: 'top.clk',
      depth: 16,
      signals: ['top.mid'],
      atTrigger: ['top.u2.q', 'top.in[2]'],
    };
    const map = insertCores(design(), { recorders: [recorder], panels: [] }, PRINT);
    const [core] = map.ok ? map.value.cores : [];
    if (core?.kind !== 'recorder') throw new Error('there is no recorder');
    expect(core.atTrigger).toMatchObject([
      { name: 'top.u2.q', width: 4, lo: 0 },
      { name: 'top.in[2]', width: 1, lo: 4 },
    ]);
    expect(core.width).toBe(4);
    expect(planOf(core).atTrigger).toEqual(recorder.atTrigger);
    expect(readProbeMap(JSON.parse(JSON.stringify(map.ok && map.value)))).toEqual(map);
    const gone = { recorders: [{ ...recorder, atTrigger: ['top.nobody'] }], panels: [] };
    expect(insertCores(design(), gone, PRINT)).toMatchObject({ ok: false, error: { code: 'signal-gone' } });
    expect(missingNames(gone, new Set(['top.clk', 'top.mid']))).toEqual(['top.nobody']);
    // Seven words of 32 bits of row more or less: however wide, it elaborates and is read back in its place.
    for (const width of [1, 31, 32, 33, 90]) {
      const text = debugVerilog(
        mapOf(PRINT, [{ ...core, atTrigger: [{ name: 'top.u2.q', width, lo: 0, signed: false }] }]),
      );
      const { messages } = elaborate([text], { top: 'nimble_debug' });
      expect(messages.list.filter(({ severity }) => severity === 'error')).toEqual([]);
    }
  });

  test('names all signals that are gone, once each', () => {
    const made = insertCores(design(), panel(['top.x', 'top.y'], ['top.x']), PRINT);
    expect(made.ok ? '' : made.error.message).toMatch(/top\.x, top\.y\.$/);
  });
});

describe('the cores', () => {
  test('are portable: no system tasks, no names of a part, every clock an edge', () => {
    const { text } = debugVerilog(mapOf(PRINT, []));
    expect(text).not.toMatch(/\$|corvane|cv25/i);
    expect([...text.matchAll(/always @\((.*?)\)/g)].every(([, list]) => list?.startsWith('posedge'))).toBe(true);
  });

  test('elaborate without a word of complaint in every size', () => {
    for (const width of [4, 32, 33, 500])
      for (const depth of [16, 4096]) {
        const map = mapOf(PRINT, [
          {
            kind: 'recorder',
            core: 1,
            name: 'r',
            clock: 'c',
            depth,
            width,
            signals: [],
            atTrigger: [],
            comparators: 1,
            stages: 1,
            qualifier: false,
            segments: 1,
          },
          {
            kind: 'panel',
            core: 2,
            name: 'p',
            clock: 'c',
            leverBits: width,
            enableBits: 2,
            gaugeBits: width,
            levers: [],
            gauges: [],
            pulse: width > 4,
            activity: width > 4,
          },
        ]);
        const { netlist, messages } = elaborate([debugVerilog(map)], { top: 'nimble_debug' });
        expect(messages.list).toEqual([]);
        expect(netlist).not.toBeNull();
      }
  });
});

describe('plans and maps', () => {
  test('a depth that is no power of two, an empty recorder and a missing clock are refused', () => {
    const recorder = { name: 'r', clock: 'c', depth: 64, signals: ['a'] };
    const good = (change: object) =>
      probePlan.safeParse({ recorders: [{ ...recorder, ...change }], panels: [] }).success;
    expect([
      good({}),
      good({ depth: 100 }),
      good({ signals: [], comparators: 1, stages: 1 }),
      good({ clock: '' }),
      good({ depth: 1 << 20 }),
    ]).toEqual([true, false, false, false, false]);
  });

  test('a map is read back as written, and something else is told as such', () => {
    const map = mapOf(PRINT, []);
    const read = readProbeMap(JSON.parse(JSON.stringify(map)));
    expect(read.ok && read.value).toEqual(map);
    expect(readProbeMap({ format: 'other' }).ok).toBe(false);
  });
});
