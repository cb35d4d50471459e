import { benchHands } from './cable.ts';
// A golden image, an update, and a supply that fails whenever it likes.
import { chainOn } from '../tests/support/chain-on.ts';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { buildStream, StreamDecoder } from '../core/families/corvane/stream.ts';
import { framesOfPart } from '../core/families/corvane/parts.ts';
import { type Fpga, partNamed, readBitstream, readNow, streamFacts } from '../core/families/index.ts';
import { crc32, reverseByte } from '../core/bits/index.ts';
import { meet } from '../core/flash/index.ts';
import { type KeepBlock, keepBlocks, type ReachedFlash, reachFlash, rehearseBoot } from '../core/operations/index.ts';
import { lookAtBoot, writeBlocks } from '../core/operations/keep-blocks.ts';
import { unwatched } from '../core/progress.ts';
import { builtDemo } from '../tests/support/demo.ts';
import { DirectSpi } from '../tests/support/spi.ts';
import { Bench, BenchCable, readBenchFile } from './index.ts';
import { FlashChip } from './flash-chip.ts';

const opened = readBitstream(builtDemo().bitstream);
if (!opened.ok) throw new Error(opened.error.message);
/** The smallest part, so that many boots take little time. */
const PART = 'CV10';
const part =
  partNamed(PART) ??
  (() => {
    throw new Error(`no ${PART}`);
  })();
const UPDATE_AT = 0x100000;

/** A board with that part alone, and its flash. */
const boot = (part.family.flash as NonNullable<Fpga['flash']>).boot;

function board(memory: Uint8Array) {
  const file = readBenchFile(JSON.stringify({ chain: [{ kind: 'corvane', part: PART, flash: 'LR32' }] }), 'board');
  if (!file.ok) throw new Error(file.error.message);
  const bench = new Bench(file.value, new Map([[0, memory]]));
  return { bench, cable: new BenchCable(bench) };
}

/** The same design under another fingerprint: what tells two builds apart. */
function restamped(stream: Uint8Array, print: number): Uint8Array {
  const frames: Uint8Array[] = [];
  const decoder = new StreamDecoder((event) => {
    if (event.kind === 'frame') frames.push(event.data);
  });
  decoder.bits(stream.map(reverseByte), stream.length * 8);
  const memory = Buffer.concat(frames);
  return buildStream(
    part.idcode,
    framesOfPart(PART),
    new Uint8Array(16).fill(print),
    memory.subarray(4, 4 + memory.readUInt32BE(0)),
  );
}

const [golden, first, second] = [0x33, 0x11, 0x22].map((print) => restamped(opened.value.stream, print)) as [
  Uint8Array,
  Uint8Array,
  Uint8Array,
];
const printOf = (stream: Uint8Array) => streamFacts(stream).fingerprint;
const block = (name: string, role: KeepBlock['role'], address: number, bytes: Uint8Array): KeepBlock => ({
  name,
  role,
  address,
  bytes,
});
const update = (bytes: Uint8Array) => [
  block('update', 'update', UPDATE_AT, bytes),
  block('serial number', 'data', 0x200000, new TextEncoder().encode('LH-0042')),
];

/** A chip whose supply fails after so many changed bytes. */
async function chipWith(
  memory: Uint8Array,
  failsAfter: number | null,
): Promise<{ chip: FlashChip; flash: ReachedFlash; port: DirectSpi }> {
  let now = 0;
  const chip = new FlashChip('LR32', memory, () => now, Uint8Array.of(1, 2, 3, 4, 5, 6, 7, 8));
  const port = new DirectSpi(chip, (microseconds) => {
    now += microseconds;
  });
  const met = await meet(port);
  if (!met.ok) throw new Error(met.error.message);
  chip.faults = { ...chip.faults, failsAfter };
  return {
    chip,
    port,
    flash: {
      ...met.value,
      device: 0,
      through: part,
      boot,
      bootSource: 'flash',
      port,
      counts: () => ({ tckCycles: 0, payloadBits: 0 }),
    },
  };
}

async function write(memory: Uint8Array, blocks: readonly KeepBlock[], failsAfter: number | null = null) {
  const { flash, port } = await chipWith(memory, failsAfter);
  const look = await lookAtBoot(flash, unwatched);
  const before = port.sent.length;
  return {
    report: await writeBlocks(flash, blocks, look, { replaceGolden: false }, unwatched),
    sent: port.sent.slice(before),
  };
}

/** What a board with this flash runs after power-on. */
async function booted(memory: Uint8Array) {
  const { bench, cable } = board(memory);
  bench.advance(150_000);
  const link = await chainOn(cable).link(PART, 0);
  if (!link.ok) throw new Error(link.error.message);
  const status = await readNow(link.value, part.family.status);
  return { status, fingerprint: await readNow(link.value, part.family.print) };
}

const blank = () => new Uint8Array(4 << 20).fill(0xff);
const withGolden = () => {
  const memory = blank();
  memory.set(golden);
  return memory;
};

async function withUpdate(): Promise<Uint8Array> {
  const memory = withGolden();
  const { report } = await write(memory, update(first));
  if (!report.ok) throw new Error(report.error.message);
  return memory;
}

describe('two images', () => {
  test('the header is whole or is none', () => {
    const header = boot.writeHeader(UPDATE_AT);
    expect(boot.readHeader(header)).toBe(UPDATE_AT);
    for (let i = 0; i < 128; i++) {
      const broken = header.slice();
      broken[i >> 3] = (broken[i >> 3] as number) ^ (1 << (i & 7));
      expect(boot.readHeader(broken)).toBeNull();
    }
    for (let length = 0; length < 16; length++)
      expect(
        boot.readHeader(new Uint8Array(16).fill(0xff).map((byte, i) => (i < length ? (header[i] as number) : byte))),
      ).toBeNull();
  });

  test('golden, update and data are written in one go, the header last; the update boots', async () => {
    const memory = blank();
    const { report, sent } = await write(memory, [block('golden', 'golden', 0, golden), ...update(first)]);
    expect(report).toMatchObject({
      ok: true,
      value: { golden: 'written', headerWritten: true, boots: printOf(first), uniqueId: '0102030405060708' },
    });
    const programmed = sent
      .filter(([command]) => command === 0x02)
      .map(([, a = 0, b = 0, c = 0]) => (a << 16) | (b << 8) | c);
    expect(programmed.at(-1)).toBe(boot.headerAddress(4 << 20));
    expect(programmed.filter((address) => address === boot.headerAddress(4 << 20))).toHaveLength(1);
    const { status, fingerprint } = await booted(memory);
    expect(fingerprint).toBe(printOf(first));
    expect(status).toMatchObject({ done: true, fromUpdate: true, fellBack: false, source: 'flash' });
  });

  test('an update that is damaged is refused by the FPGA: golden runs, and the status says so', async () => {
    const memory = await withUpdate();
    memory[UPDATE_AT + 9000] = (memory[UPDATE_AT + 9000] as number) ^ 0x10;
    const { status, fingerprint } = await booted(memory);
    expect(fingerprint).toBe(printOf(golden));
    expect(status).toMatchObject({ done: true, fromUpdate: false, fellBack: true });
    memory.fill(0xff, UPDATE_AT, UPDATE_AT + 0x60000);
    expect((await booted(memory)).fingerprint).toBe(printOf(golden));
  });

  test('a golden image that stands is not touched, whatever else is given', async () => {
    const memory = await withUpdate();
    const { report, sent } = await write(memory, [block('golden', 'golden', 0, second), ...update(second)]);
    expect(report).toMatchObject({ ok: true, value: { golden: 'left', boots: printOf(second) } });
    expect(sent.some(([command, a = 0]) => command !== 0x06 && a < UPDATE_AT >> 16)).toBe(false);
    expect(Buffer.from(memory.subarray(0, golden.length)).equals(Buffer.from(golden))).toBe(true);
  });

  test('the same again erases and writes nothing', async () => {
    const memory = await withUpdate();
    const crc = crc32(memory);
    const { report, sent } = await write(memory, update(first));
    expect(report).toMatchObject({ ok: true, value: { sectorsErased: 0, pagesWritten: 0, headerWritten: false } });
    expect(sent).toEqual([]);
    expect(crc32(memory)).toBe(crc);
  });

  test('whenever the supply fails while an update is replaced, the board boots; writing again finishes it', async () => {
    const start = await withUpdate();
    // Sectors erased and pages programmed: the header's, the update's, the header again.
    const total = 4096 + Math.ceil(second.length / 4096) * 4096 + second.length + 8192;
    const edges = [0, 1, 8, 16, 4095, 4096, 4097, total - 4200, total - 4096];
    await fc.assert(
      fc.asyncProperty(fc.oneof(fc.constantFrom(...edges), fc.nat(total)), async (failsAfter) => {
        const memory = start.slice();
        const { report } = await write(memory, update(second), failsAfter);
        expect(Buffer.from(memory.subarray(0, golden.length)).equals(Buffer.from(golden))).toBe(true);
        const { fingerprint, status } = await booted(memory);
        expect(status.done).toBe(true);
        expect([printOf(golden), printOf(first), printOf(second)]).toContain(fingerprint);
        if (report.ok) expect(fingerprint).toBe(printOf(second));
        const again = await write(memory, update(second));
        expect(again.report).toMatchObject({ ok: true, value: { verified: true } });
        expect(boot.readHeader(memory.subarray(boot.headerAddress(memory.length)))).toBe(UPDATE_AT);
        expect(Buffer.from(memory.subarray(UPDATE_AT, UPDATE_AT + second.length)).equals(Buffer.from(second))).toBe(
          true,
        );
      }),
      { numRuns: 14 },
    );
  });
});

describe('through the chain', () => {
  const request = (blocks: readonly KeepBlock[]) => ({
    fpga: PART,
    device: null,
    blocks,
    stale: [],
    expects: null,
    replaceGolden: false,
  });

  test('the supply fails in the middle: said so; switched on, golden boots, and the write goes on', async () => {
    const { bench, cable } = board(withGolden());
    bench.setFault({ name: 'power-fails-writing', afterBytes: 50_000 }, true);
    const broken = await keepBlocks(chainOn(cable), request(update(first)), unwatched);
    expect(!broken.ok && broken.error).toMatchObject({
      code: 'power-lost',
      message: expect.stringMatching(/lost its supply/) as string,
    });
    bench.setPower(true);
    bench.advance(150_000);
    expect(await rehearseBoot(chainOn(cable, { hands: benchHands(bench) }), PART, 0, unwatched)).toMatchObject({
      ok: true,
      value: { done: true, fingerprint: printOf(golden), status: { fellBack: false } },
    });
    const kept = await keepBlocks(chainOn(cable), request(update(first)), unwatched);
    expect(kept).toMatchObject({ ok: true, value: { boots: printOf(first) } });
    if (kept.ok) expect(kept.value.pagesWritten).toBeLessThan(Math.ceil(first.length / 256) - 100);
    const same = await keepBlocks(chainOn(cable), request(update(first)), unwatched);
    // The compare alone: the sectors of golden and update, the header and the data once each, at most 1.03 TCK cycles a
    // bit.
    if (same.ok)
      expect([
        same.value.pagesWritten,
        same.value.tckCycles <= 1.03 * 8 * (golden.length + first.length + 4 * 4096),
      ]).toEqual([0, true]);
    expect(
      await rehearseBoot(chainOn(cable, { hands: benchHands(bench) }), PART, 0, unwatched, 'reconfigure'),
    ).toMatchObject({
      ok: true,
      value: { by: 'reconfigure', done: true, fingerprint: printOf(first), status: { fromUpdate: true } },
    });
  });

  test('nothing is erased for an update without golden, an image of another part, one that does not fit or crosses another', async () => {
    const { bench, cable } = board(blank());
    const damaged = golden.slice();
    damaged[5000] = (damaged[5000] as number) ^ 1;
    const refusals: [string, readonly KeepBlock[]][] = [
      ['no-golden', update(first)],
      ['keep-image', [block('image', 'image', 0, opened.value.stream)]],
      ['keep-image', [block('image', 'image', 0, damaged)]],
      ['keep-image', [block('image', 'image', 0, golden.map(reverseByte))]],
      ['keep-image', [block('image', 'image', 0, new Uint8Array(100))]],
      ['keep-image', [block('image', 'image', 4096, golden)]],
      ['flash-too-large', [block('data', 'data', (4 << 20) - 10, new Uint8Array(11))]],
      [
        'keep-place',
        [block('golden', 'golden', 0, golden), block('data', 'data', golden.length + 1, new Uint8Array(8))],
      ],
      ['keep-place', [block('golden', 'golden', 0, golden), block('update', 'update', golden.length - 100, first)]],
      [
        'keep-place',
        [
          block('golden', 'golden', 0, golden),
          block('update', 'update', UPDATE_AT, first),
          block('data', 'data', (4 << 20) - 100, new Uint8Array(8)),
        ],
      ],
    ];
    const wrong = await keepBlocks(
      chainOn(cable),
      { ...request([block('image', 'image', 0, golden)]), expects: 'QF32' },
      unwatched,
    );
    expect(!wrong.ok && wrong.error).toMatchObject({
      code: 'flash-other',
      message: 'Quoin QF32 (95 27 16) is named, but the chip answers 4B 31 16: Ledger LR32. Nothing was erased.',
    });
    for (const [code, blocks] of refusals) {
      const kept = await keepBlocks(chainOn(cable), request(blocks), unwatched);
      expect(kept.ok ? 'kept' : kept.error.code).toBe(code);
    }
    expect(bench.flashChanges).toBe(0);
  });
});

describe('a part that shares its flash pins with the design', () => {
  test('is not asked for its flash unless it is named, and stops when it is', async () => {
    const { bench, cable } = board(withGolden());
    bench.advance(150_000);
    expect(await reachFlash(chainOn(cable), null)).toMatchObject({ ok: false, error: { code: 'no-device' } });
    expect(bench.panel().done).toEqual({ 0: true });
    expect(await reachFlash(chainOn(cable), 0)).toMatchObject({ ok: true, value: { part: { name: 'LR32' } } });
    expect(bench.panel().done).toEqual({ 0: false });
  });
});
