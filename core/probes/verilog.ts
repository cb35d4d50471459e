import type { SourceFile } from '../hdl/index.ts';
import {
  bridgeVerilog,
  comparatorVerilog,
  hubVerilog,
  panelVerilog,
  recorderVerilog,
  stepperVerilog,
} from './cores/index.ts';
import { type CoreMap, onceBits, type PanelMap, type ProbeMap, type RecorderMap, wordBits } from './map.ts';

/** File that the debug cores are written in, none of the project's. */
export const DEBUG_FILE = 'nimble_debug.v';

/**
 * The debug logic of a build as plain Verilog: the cores, and a module `nimble_debug` that joins them to the hub. Its
 * ports are one JTAG user register and, for core n, `c<n>_clk`, `c<n>_probe`, `c<n>_state` or `c<n>_gauge`,
 * `c<n>_lever`, `c<n>_enable`, `c<n>_go`, `c<n>_go_late`, `c<n>_cs_n`, `c<n>_sck`, `c<n>_mosi`, `c<n>_miso`.
 */
export function debugVerilog({ fingerprint, cores }: ProbeMap): SourceFile {
  const ports = ['input tck', 'input tdi', 'input capture', 'input shift', 'output tdo', ...cores.flatMap(portsOf)];
  const has = (kind: CoreMap['kind']) => cores.some((core) => core.kind === kind);
  const text = [
    hubVerilog,
    has('recorder') || has('stepper') ? comparatorVerilog : '',
    has('recorder') ? recorderVerilog : '',
    has('panel') ? panelVerilog : '',
    has('stepper') ? stepperVerilog : '',
    has('bridge') ? bridgeVerilog : '',
    `module nimble_debug (\n  ${ports.join(',\n  ')}\n);`,
    '  wire [3:0] bus_core; wire [7:0] bus_reg; wire [4:0] bus_bit; wire [31:0] bus_wdata;',
    '  wire bus_write, bus_hold, stream_load, stream_next;',
    ...cores.map(({ core }) => `  wire rbit_${core}, stream_${core};`),
    `  nimble_hub #(.PRINT(128'h${fingerprint}), .CORES(${cores.length})) hub (.tck(tck), .tdi(tdi), ` +
      '.capture(capture), .shift(shift), .tdo(tdo),',
    '    .bus_core(bus_core), .bus_reg(bus_reg), .bus_bit(bus_bit), .bus_wdata(bus_wdata), .bus_write(bus_write), ' +
      '.bus_hold(bus_hold), .stream_load(stream_load), .stream_next(stream_next),',
    `    .bus_rbit(${cores.map(({ core }) => `rbit_${core}`).join(' | ') || "1'b0"}), ` +
      `.stream_bit(${cores.map(({ core }) => `stream_${core}`).join(' | ') || "1'b0"}));`,
    ...cores.map((core) => instanceOf(core, cores)),
    'endmodule',
  ].join('\n');
  return { name: DEBUG_FILE, text };
}

const bus = (core: number): string =>
  '.tck(tck), .bus_core(bus_core), .bus_reg(bus_reg), .bus_bit(bus_bit), .bus_wdata(bus_wdata), ' +
  '.bus_write(bus_write), .bus_hold(bus_hold), .stream_load(stream_load), .stream_next(stream_next), ' +
  `.bus_rbit(rbit_${core}), .stream_bit(stream_${core})`;

function portsOf(core: CoreMap): string[] {
  const n = core.core;
  if (core.kind === 'bridge') return [`output c${n}_cs_n`, `output c${n}_sck`, `output c${n}_mosi`, `input c${n}_miso`];
  if (core.kind === 'stepper')
    return [`input c${n}_clk`, `input [${core.width - 1}:0] c${n}_probe`, `output c${n}_go`, `output c${n}_go_late`];
  if (core.kind === 'recorder')
    return [
      `input c${n}_clk`,
      `input [${core.width - 1}:0] c${n}_probe`,
      ...(core.atTrigger.length > 0 ? [`input [${onceBits(core) - 1}:0] c${n}_state`] : []),
    ];
  return [
    `input c${n}_clk`,
    `input [${Math.max(1, core.gaugeBits) - 1}:0] c${n}_gauge`,
    `output [${Math.max(1, core.leverBits) - 1}:0] c${n}_lever`,
    `output [${Math.max(1, core.enableBits) - 1}:0] c${n}_enable`,
  ];
}

/** Bits of a number that counts to less than `count`. */
const bitsFor = (count: number): number => Math.max(1, Math.ceil(Math.log2(count)));

const panelBits = ({ gaugeBits, leverBits, enableBits, activity, gauges }: PanelMap): number =>
  [gaugeBits, leverBits, enableBits].reduce((sum, bits) => sum + Math.max(1, bits), 0) +
  (activity ? 2 * Math.max(1, gaugeBits) + COUNT_BITS * Math.max(1, gauges.length) : 0);

/** Bits of the count of each gauge's changes. */
const COUNT_BITS = 8;

/** Numbers of 16 bits, the first one lowest. */
const packed = (numbers: readonly number[]): string =>
  `${16 * numbers.length}'h${numbers
    .map((one) => one.toString(16).padStart(4, '0'))
    .reverse()
    .join('')}`;

/** Where each gauge is, for its changes to be counted. */
const wordsOf = ({ gauges, activity }: PanelMap): string =>
  activity && gauges.length > 0
    ? `, .WORDS(${gauges.length}), .FROM(${packed(gauges.map(({ lo }) => lo))}), .WIDE(${packed(gauges.map(({ width }) => width))})`
    : '';

const words = (bits: number): number => Math.max(1, Math.ceil(bits / 32));

/** 1 for every bit that comes through a synchroniser, highest first. */
function lateBits({ width, signals }: RecorderMap): string {
  const bits = Array<string>(width).fill('0');
  for (const { lo, width: wide, synchronised } of signals)
    if (synchronised) bits.fill('1', width - lo - wide, width - lo);
  return bits.join('');
}

function instanceOf(core: CoreMap, cores: readonly CoreMap[]): string {
  const n = core.core;
  if (core.kind === 'bridge')
    return (
      `  nimble_bridge #(.CORE(${n})) core_${n} (.cs_n(c${n}_cs_n), .sck(c${n}_sck), .mosi(c${n}_mosi), ` +
      `.miso(c${n}_miso), ${bus(n)});`
    );
  if (core.kind === 'stepper')
    return (
      `  nimble_stepper #(.CORE(${n}), .W(${core.width}), .C(${core.comparators}), .HELD(${core.held ? 1 : 0})) core_${n} ` +
      `(.clk(c${n}_clk), .probe(c${n}_probe), .go(c${n}_go), .go_late(c${n}_go_late), ${bus(n)});`
    );
  if (core.kind === 'recorder') {
    const once = onceBits(core);
    const stepper = cores.find((one) => one.kind === 'stepper' && one.name === core.stepper);
    return (
      `  nimble_recorder #(.CORE(${n}), .W(${core.width}), .LATE(${core.width}'b${lateBits(core)}), ` +
      `.LOG_DEPTH(${Math.log2(core.depth)}), .C(${core.comparators}), .S(${core.stages}), ` +
      `.Q(${core.qualifier ? 1 : 0}), .G(${Math.log2(core.segments)}), .BIT(${bitsFor(wordBits(core))}), ` +
      `.E(${stepper ? 1 : 0}), .X(${once})) core_${n} (.clk(c${n}_clk), .probe(c${n}_probe), ` +
      `.lets(${stepper ? `c${stepper.core}_go` : "1'b1"}), .state(${once > 0 ? `c${n}_state` : "1'b0"}), ${bus(n)});`
    );
  }
  return (
    `  nimble_panel #(.CORE(${n}), .LEVERS(${Math.max(1, core.leverBits)}), ` +
    `.ENABLES(${Math.max(1, core.enableBits)}), .GAUGES(${Math.max(1, core.gaugeBits)}), ` +
    `.LEVER_WORDS(${words(core.leverBits)}), .ENABLE_WORDS(${words(core.enableBits)}), .AT(${bitsFor(panelBits(core))}), ` +
    `.PULSE(${core.pulse ? 1 : 0}), .LATCH(${core.activity ? 1 : 0})${wordsOf(core)}) core_${n} (.clk(c${n}_clk), ` +
    `.gauge(c${n}_gauge), .lever(c${n}_lever), .enable(c${n}_enable), ${bus(n)});`
  );
}
