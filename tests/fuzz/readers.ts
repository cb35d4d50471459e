// Everything that reads what others wrote, each with what its inputs are made from.
import { strToU8, zipSync } from 'fflate';
import { Bench, readBenchFile } from '../../bench/index.ts';
import { designIn } from '../../bench/corvane/frames.ts';
import { crc32 } from '../../core/bits/index.ts';
import { readBsdl } from '../../core/bsdl/index.ts';
import { build, decodeText, readArchive, readProject } from '../../core/build/index.ts';
import { readChainFile } from '../../core/chain/index.ts';
import { parsePinTable, readBoard } from '../../core/constraints/index.ts';
import { readBitstream, writeBitstream } from '../../core/families/index.ts';
import { buildStream } from '../../core/families/corvane/stream.ts';
import { packNetlist, unpackNetlist } from '../../core/families/corvane/pack.ts';
import { streamFacts } from '../../core/families/corvane/stream-facts.ts';
import { basicTablePlace, readParameters } from '../../core/flash/sfdp.ts';
import { elaborate } from '../../core/hdl/index.ts';
import { simulate } from '../../core/sim/events/index.ts';
import { boardData, boardRows, readImage, readLayout } from '../../core/images/index.ts';
import { jsonIntegers } from '../../core/json-integers.ts';
import { optimise } from '../../core/netlist/index.ts';
import { fromWire, podReply, podRequest } from '../../core/pod/protocol.ts';
import { emptyPlan, parseLeverValue, readPlanFile, readProbeMap, readShelf } from '../../core/probes/index.ts';
import type { RecorderMap } from '../../core/probes/map.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { SvfReader } from '../../core/svf/index.ts';
import { compileCondition, formOf, parseValue } from '../../core/trigger/index.ts';
import { runVectors } from '../../core/vectors/index.ts';
import {
  decode,
  findAll,
  fitView,
  plainView,
  readCaptureJson,
  VcdReader,
  waveView,
  writeRecordVcd,
} from '../../core/wave/index.ts';
import { decoderShape } from '../../core/wave/decode/index.ts';
import { recordingFrom } from '../support/wave-model.ts';
import type { Chance } from './chance.ts';
import { corpusBytes, corpusLines, corpusTexts, demoText, demoTexts } from './corpus.ts';
import { mutatedBytes } from './mutate-bytes.ts';
import { mutatedJson } from './mutate-json.ts';
import { mutatedText } from './mutate-text.ts';

export interface Reader {
  readonly name: string;
  /** Of a thousand inputs about so many: what is quick is tried more. */
  readonly share: number;
  readonly seeds: () => readonly Uint8Array[];
  readonly make: (seeds: readonly Uint8Array[], chance: Chance) => Uint8Array;
  /** Throws where the reader is at fault; what it refuses it refuses by value, or as a ProblemError. */
  readonly read: (input: Uint8Array) => void;
}

const utf8 = new TextEncoder();
const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);
const bytesOf = (texts: readonly string[]): Uint8Array[] => texts.map((one) => utf8.encode(one));

type Make = (seeds: readonly string[], chance: Chance) => string;

function textReader(
  name: string,
  share: number,
  seeds: () => readonly string[],
  read: (text: string) => void,
  make: Make = mutatedText,
): Reader {
  let kept: readonly string[] | null = null;
  const texts = () => (kept ??= seeds());
  return {
    name,
    share,
    seeds: () => bytesOf(texts()),
    make: (_, chance) => utf8.encode(make(texts(), chance)),
    read: (input) => read(text(input)),
  };
}

const jsonReader = (name: string, share: number, seeds: () => readonly string[], read: (text: string) => void) =>
  textReader(name, share, seeds, read, mutatedJson);

const bytesReader = (
  name: string,
  share: number,
  seeds: () => readonly Uint8Array[],
  read: (bytes: Uint8Array) => void,
  make = mutatedBytes,
): Reader => ({ name, share, seeds, make, read });

const DESIGN =
  'module top(input clk, input [3:0] d, output reg [3:0] q, output y);\n' +
  '  reg [3:0] m [0:7];\n  always @(posedge clk) begin q <= q + d; m[q[2:0]] <= d; end\n' +
  '  assign y = ^m[d[2:0]];\nendmodule\n';
const SETTINGS = JSON.stringify({
  ...{ format: 'nimble-project', version: 3, grade: 2, name: 'Small', part: 'CV10', package: 'Q100', top: 'top' },
  ...{ pins: 'pins.csv', clocks: { clk: 12e6 }, accepted: [] },
});

const CAPTURE = JSON.stringify({
  ...{ format: 'nimble-capture', version: 1, recorder: 'main', fingerprint: 'a'.repeat(32), sampleRate: 12e6 },
  ...{
    samples: 6,
    triggerIndex: 2,
    segments: 2,
    stampAt: 16,
    gaps: [
      [3, 40],
      [5, null],
    ],
  },
  signals: [
    {
      name: 'top.level',
      width: 12,
      signed: true,
      changes: [
        [0, '-3'],
        [2, '90'],
        [5, '000001x0zz11'],
      ],
    },
    {
      name: 'top.go',
      width: 1,
      changes: [
        [0, '0'],
        [4, '1'],
      ],
    },
  ],
});

const signal = (name: string, lo: number, width: number) => ({
  ...{ name, lo, width, signed: false, kind: 'reg', domain: 'top.clk' },
  names: name === 'top.state' ? { IDLE: '0', RUN: '1', DONE: '2' } : {},
});
const RECORDER = {
  ...{ kind: 'recorder', name: 'main', core: 1, clock: 'top.clk', depth: 64, width: 16 },
  ...{ comparators: 5, stages: 4, qualifier: false, segments: 1 },
  signals: [signal('top.go', 0, 1), signal('top.level', 1, 12), signal('top.state', 13, 3)],
};
const MAP = JSON.stringify({ format: 'nimble-probes', version: 1, fingerprint: 'a'.repeat(32), cores: [RECORDER] });
const RECORDING = recordingFrom({
  'top.go': ['0', '1', '1', '0', '1', '0', '0', '1'],
  'top.level': ['0000', '0001', '0011', '0111', 'xxxx', '0101', '1111', '0000'],
  'top.state': ['00', '01', '10', '10', '01', '00', '01', '11'],
  'top.b': ['0', '0', '1', 'x', '1', '1', '0', '0'],
  'top.c': ['1', '0', '1', '0', '0', '1', '0', 'z'],
});

function smallProject(verilog: string, settings = SETTINGS, pins = 'port,pin\nclk,P1\n'): void {
  const read = readProject([
    { name: 'nimble.json', text: settings },
    { name: 'pins.csv', text: pins },
    { name: 'top.v', text: verilog },
  ]);
  if (read.ok) build({ project: read.value, plan: emptyPlan });
}

/** What our own packer makes of a design has to be what a part takes, and runs. */
function packed(netlist: Parameters<typeof optimise>[0]): void {
  const small = optimise(netlist).netlist;
  const payload = packNetlist({ netlist: small, pins: [] });
  const frames = new Uint8Array(payload.length + 4);
  new DataView(frames.buffer).setUint32(0, payload.length);
  frames.set(payload, 4);
  if (payload.length < 20_000 && !designIn(frames)) throw new Error('a part does not take what was packed');
}

function runFrames(frames: Uint8Array): void {
  // A configuration memory is never shorter than a frame.
  if (frames.length < 256) return;
  unpackNetlist(frames.subarray(4));
  const design = designIn(frames);
  if (!design) return;
  const part = new Simulator(design.netlist);
  for (const [i] of part.domains.entries()) part.step(i, 2);
  for (const { name } of design.netlist.outputs) part.getOutput(name);
}

function demoPayload(): Uint8Array {
  const { netlist } = elaborate([{ name: 't.v', text: DESIGN }]);
  if (!netlist) throw new Error('the design of the corpus has an error');
  return packNetlist({ netlist: optimise(netlist).netlist, pins: [] });
}

const framed = (payload: Uint8Array) => {
  const frames = new Uint8Array(payload.length + 4);
  new DataView(frames.buffer).setUint32(0, payload.length);
  frames.set(payload, 4);
  return frames;
};

const smallBitstream = () =>
  writeBitstream({
    ...{ part: 'CV10', package: 'Q100', top: 'top', fingerprint: 'ab'.repeat(16) },
    stream: buildStream(0x1c010ffd, 4, new Uint8Array(16), demoPayload().subarray(0, 700)),
  });

/** A container whose envelope says that it is right, whatever was done to it. */
function mendedEnvelope(bytes: Uint8Array): Uint8Array {
  if (bytes.length < 20) return bytes;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const header = view.getUint32(8);
  if (12 + header + 4 <= bytes.length) view.setUint32(12 + header, crc32(bytes.subarray(0, 12 + header)));
  return bytes;
}

const sumOfPairs = (hex: string): number =>
  (hex.match(/../g) ?? []).reduce((sum, pair) => sum + Number.parseInt(pair, 16), 0);

/** Lines of a memory file with the check bytes that they should have: what is behind those is reached. */
function mendedLines(file: string): string {
  return file
    .split('\n')
    .map((line) => {
      const hex = /^:[0-9A-Fa-f]{10,}$/.test(line);
      const motorola = /^S\d[0-9A-Fa-f]{6,}$/.test(line);
      if (!hex && !motorola) return line;
      const body = line.slice(hex ? 1 : 2, -2);
      const sum = sumOfPairs(body);
      const check = hex ? (256 - (sum & 255)) & 255 : ~sum & 255;
      return `${line.slice(0, -2)}${check.toString(16).toUpperCase().padStart(2, '0')}`;
    })
    .join('\n');
}

const mendedText: Make = (seeds, chance) => {
  const made = mutatedText(seeds, chance);
  return chance.oneIn(3) ? made : mendedLines(made);
};

const zipSeeds = () => [
  zipSync({ 'nimble.json': strToU8(SETTINGS), 'top.v': strToU8(DESIGN), 'pins.csv': strToU8('port,pin\n') }),
  zipSync({ 'a/top.v': [strToU8(DESIGN), { level: 0 }], 'a/plan.json': strToU8('{"recorders":[],"panels":[]}') }),
  ...corpusBytes('zip'),
];

function svf(bytes: Uint8Array): void {
  const reader = new SvfReader();
  for (let at = 0; at < bytes.length; at += 1000) reader.push(bytes.subarray(at, at + 1000));
  reader.end();
}

function vcd(bytes: Uint8Array): void {
  const reader = new VcdReader({ mostChanges: 100_000 });
  for (let at = 0; at < bytes.length; at += 1000) reader.push(bytes.subarray(at, at + 1000));
  reader.finish();
}

const json = (read: (data: unknown) => void) => (one: string) => {
  let data: unknown;
  try {
    data = JSON.parse(one);
  } catch {
    return;
  }
  read(data);
};

const recorder = () => {
  const map = readProbeMap(JSON.parse(MAP));
  if (!map.ok) throw new Error(map.error.message);
  return map.value.cores[0] as RecorderMap;
};

function layout(one: string): void {
  const read = readLayout('a.layout.json', one);
  if (!read.ok) return;
  for (const { fields } of read.value.blocks) {
    if (!fields) continue;
    boardRows(fields, 'serial,name\n1,x\n');
    boardData(fields, 'big', {});
  }
}

const VIEW = () => JSON.stringify(plainView(RECORDING, RECORDING.traces));
const FIELDS = [
  { name: 'serial', type: 'u32' },
  { name: 'name', type: 'text', length: 8 },
  { name: 'mac', type: 'hex', length: 6 },
] as const;

export const READERS: readonly Reader[] = [
  textReader(
    'verilog',
    60,
    () => [DESIGN, ...corpusTexts('verilog'), ...demoTexts('lockhouse/rtl', '.v')],
    (one) => {
      const { netlist } = elaborate([{ name: 'top.v', text: one }]);
      if (netlist) packed(netlist);
    },
  ),
  textReader(
    'testbench',
    40,
    () => [...corpusTexts('testbench'), ...demoTexts('lockhouse/sim', '.v')],
    (one) => {
      const host = { read: () => null, print: () => {} };
      for (const name of ['top.v', 'top.sv'])
        simulate([{ name, text: one }], { host, until: { seconds: 2e-7 }, turns: 200_000, plusargs: ['A', 'B=7'] });
    },
  ),
  textReader(
    'build',
    6,
    () => [DESIGN, ...corpusTexts('verilog')],
    (one) => smallProject(one),
  ),
  textReader(
    'vectors',
    20,
    () => corpusTexts('vectors'),
    (one) => {
      runVectors(
        [
          {
            name: 'top.v',
            text: 'module top(input [3:0] a, input [7:0] b, output [7:0] y, output z); assign y = a + b; assign z = ^b; endmodule',
          },
        ],
        { name: 'top.vectors.csv', text: one },
      );
    },
  ),
  textReader(
    'bsdl',
    20,
    () => [demoText('devices', 'cv10-q100.bsd'), demoText('devices', 'sp64.bsd'), ...corpusTexts('bsdl')],
    (one) => void readBsdl(one),
  ),
  textReader(
    'svf',
    80,
    () => corpusTexts('svf'),
    (one) => svf(utf8.encode(one)),
  ),
  textReader(
    'vcd',
    60,
    () => corpusTexts('vcd'),
    (one) => vcd(utf8.encode(one)),
  ),
  textReader(
    'intel-hex',
    60,
    () => corpusTexts('intel-hex'),
    (one) => void readImage(utf8.encode(one), [], 'intel-hex'),
    mendedText,
  ),
  textReader(
    's-record',
    60,
    () => corpusTexts('s-record'),
    (one) => void readImage(utf8.encode(one), [], 's-record'),
    mendedText,
  ),
  bytesReader(
    'nbits',
    30,
    () => [smallBitstream(), ...corpusBytes('nbits')],
    (bytes) => {
      const read = readBitstream(bytes);
      if (read.ok) streamFacts(read.value.stream);
    },
    (seeds, chance) => mendedEnvelope(mutatedBytes(seeds, chance)),
  ),
  bytesReader(
    'frames',
    60,
    () => [framed(demoPayload()), ...corpusBytes('frames')],
    runFrames,
    (seeds, chance) => {
      const bytes = mutatedBytes(seeds, chance);
      if (bytes.length >= 4 && !chance.oneIn(10))
        new DataView(bytes.buffer, bytes.byteOffset).setUint32(0, bytes.length - 4);
      return bytes;
    },
  ),
  bytesReader('zip', 30, zipSeeds, (bytes) => void readArchive(bytes)),
  bytesReader(
    'text-file',
    30,
    () => bytesOf([DESIGN, ...corpusTexts('vectors')]),
    (bytes) => void decodeText('a.v', bytes),
  ),
  bytesReader(
    'sfdp',
    30,
    () => [
      Uint8Array.from(
        { length: 88 },
        (_, i) => [0x53, 0x46, 0x44, 0x50, 6, 1, 0, 255, 0, 6, 1, 16, 24, 0, 0, 255][i] ?? i * 3,
      ),
    ],
    (bytes) => {
      basicTablePlace(bytes);
      readParameters(
        Array.from({ length: bytes.length >> 2 }, (_, i) =>
          new DataView(bytes.buffer, bytes.byteOffset).getUint32(i * 4),
        ),
        '1.6',
      );
    },
  ),
  jsonReader(
    'project',
    15,
    () => [SETTINGS, demoText('lockhouse', 'nimble.json')],
    (one) => smallProject('module top(input clk, output y); assign y = clk; endmodule', one),
  ),
  jsonReader('layout', 30, () => [demoText('lockhouse', 'two-images.layout.json')], layout),
  jsonReader(
    'chain',
    30,
    () => [demoText('lockhouse', 'board.chain.json')],
    (one) => void readChainFile('a.chain.json', one),
  ),
  jsonReader(
    'board',
    30,
    () => [demoText('lockhouse', 'lockhouse.board.json')],
    (one) => void readBoard('a.board.json', one),
  ),
  jsonReader(
    'bench',
    10,
    () => demoTexts('benches', '.json'),
    (one) => {
      const file = readBenchFile(one, 'a.bench.json');
      if (file.ok) new Bench(file.value).run([{ kind: 'clock', count: 8 }]);
    },
  ),
  jsonReader(
    'capture',
    20,
    () => [CAPTURE],
    (one) => {
      const read = readCaptureJson('a.json', one);
      if (read.ok) writeRecordVcd(read.value.recording, '', '');
    },
  ),
  jsonReader(
    'plan',
    30,
    () => demoTexts('lockhouse/plans', '.json'),
    (one) => {
      readPlanFile(one, 'a.plan.json');
      json((data) => void readShelf(data))(one);
    },
  ),
  jsonReader(
    'probe-map',
    30,
    () => [MAP],
    json((data) => void readProbeMap(data)),
  ),
  jsonReader(
    'integers',
    30,
    () => ['{"a":{"$bigint":"12"},"b":[1,{"$bigint":"-9"}]}'],
    json((data) => void jsonIntegers.deserialize(data as never)),
  ),
  jsonReader(
    'wave-view',
    30,
    () => [VIEW()],
    json((data) => {
      const view = waveView.safeParse(data);
      if (view.success) fitView(view.data, RECORDING, RECORDING.traces);
    }),
  ),
  jsonReader(
    'decoder',
    20,
    () => [
      '{"kind":"serial","line":"top.go","baud":115200,"dataBits":8,"parity":"none","stopBits":1}',
      '{"kind":"spi","clock":"top.go","select":"top.b","out":"top.c","in":null,"mode":0,"bits":2,"lowFirst":false}',
      '{"kind":"i2c","clock":"top.go","data":"top.b"}',
    ],
    json((data) => {
      const shape = decoderShape.safeParse(data);
      if (shape.success) decode(RECORDING, shape.data);
    }),
  ),
  jsonReader(
    'pod-request',
    40,
    () => [
      '{"id":1,"method":"hello","token":"t","client":"c","protocol":3}',
      '{"id":2,"method":"run","ops":[{"kind":"shift","count":9,"tdi":"AAA=","capture":true,"exit":true},{"kind":"tms","count":3,"tms":"BQ=="}]}',
      `{"id":3,"method":"stage","name":"a","bytes":5,"sha256":"${'0'.repeat(64)}"}`,
    ],
    json((data) => {
      const request = podRequest.safeParse(data);
      if (request.success && request.data.method === 'run') request.data.ops.map(fromWire);
    }),
  ),
  jsonReader(
    'pod-reply',
    20,
    () => [
      '{"id":1,"ok":true,"result":["AAA="]}',
      '{"event":"status","status":{"cable":{"attached":true,"referenceVolts":3.3,"tckHz":1e6,"leastHz":1,"mostHz":1e7},"lease":null,"asked":null,"speed":1,"view":null,"faults":[]}}',
    ],
    json((data) => void podReply.safeParse(data)),
  ),
  textReader(
    'pins',
    30,
    () => corpusTexts('pins'),
    (one) => void parsePinTable(one),
  ),
  textReader(
    'boards',
    30,
    () => [...corpusTexts('boards'), demoText('lockhouse', 'lockhouse.boards.csv')],
    (one) => {
      const rows = boardRows(FIELDS, one);
      if (rows.ok) for (const row of rows.value.slice(0, 5)) boardData(FIELDS, 'little', row);
    },
  ),
  textReader(
    'condition',
    60,
    () => corpusLines('condition'),
    (one) => {
      compileCondition(one, recorder());
      compileCondition('', recorder(), one);
      formOf(one);
    },
  ),
  textReader(
    'rule',
    40,
    () => corpusLines('rule'),
    (one) => void findAll(RECORDING, one),
  ),
  textReader(
    'value',
    30,
    () => ["12'd20", '0x1F', "8'b1x0z_0101", '-5', "4'sd3", '1.5'],
    (one) => {
      for (const width of [1, 12, 64]) parseValue(one, width);
      for (const radix of ['dec', 'hex', 'bin'] as const) parseLeverValue(one, 12, radix);
    },
  ),
];
