// `npm run bench`: the speed table of the product, measured now, on this machine. Counts first, then times.
import { chainOn } from '../../tests/support/chain-on.ts';
import { builtDemo, demoPlan, demoProject } from '../../tests/support/demo.ts';
import { lockhouse } from '../../tests/support/lockhouse.ts';
import { build, type BuildMemory, warmUp } from '../../core/build/index.ts';
import { readBitstream } from '../../core/families/index.ts';
import { armRecorder, captureNow, keepBitstream, loadBitstream } from '../../core/operations/index.ts';
import type { ProbeMap } from '../../core/probes/index.ts';
import { imageOf, readImage, writeImage } from '../../core/images/index.ts';
import { unwatched } from '../../core/progress.ts';
import { PieceMemory } from '../../core/mapping/index.ts';
import { wireFigures } from './wire.ts';
import { farLoadSeconds } from '../../tests/support/far-pod.ts';
import { backendSpeeds } from './backends.ts';
import { eventSpeeds, heapOverEvents } from './events.ts';
import { replaySpeeds } from './replay.ts';
import { growth } from './growth.ts';
import { largeDesigns, ratiosOf, sixDigits, smallCircuits } from './mapping.ts';
import { coreFigures, isReached } from '../../tests/support/core-sizes.ts';
import { saveTimes } from '../../tests/support/save-times.ts';
import { clockCosts, madeBesideCosts, madeClockCosts } from './clocks.ts';
import { againstC } from './native.ts';
import { heapOverCaptures } from './kept.ts';
import { armedWithPage, atRest, commandStart } from './rest.ts';
import { tableRows } from './table.ts';
import { svfReading } from './svf.ts';
import { vcdReading } from './vcd.ts';
import { redrawTimes } from './waveform.ts';

interface Row {
  readonly work: string;
  readonly measure: string;
  readonly value: string;
  readonly reach: string;
  readonly met: boolean | null;
}

const BOARD_MICROSECONDS = 2_000_000;

const rows: Row[] = [];
const add = (work: string, measure: string, value: number, digits: number, reach: string, met: boolean | null) =>
  rows.push({ work, measure, value: value.toFixed(digits), reach, met });

async function cycles(): Promise<void> {
  const { cable, bench } = lockhouse();
  const probed = builtDemo(demoPlan());
  const read = readBitstream(probed.bitstream);
  if (!read.ok) throw new Error(read.error.message);
  const loaded = await loadBitstream(chainOn(cable), read.value, null, unwatched);
  if (!loaded.ok || !loaded.value.done) throw new Error('the demo does not load');
  const load = loaded.value.tckCycles / loaded.value.payloadBits;
  add('load over JTAG', 'TCK cycles / payload bit', load, 5, '≤ 1.01', load <= 1.01);
  const verified = await loadBitstream(chainOn(cable), read.value, null, unwatched, { verify: true });
  if (!verified.ok || !verified.value.verified) throw new Error('the demo does not verify');
  add('load read-back', 'bits compared', read.value.stream.length * 8, 0, '', null);
  const kept = await keepBitstream(chainOn(cable), read.value, null, unwatched);
  if (!kept.ok) throw new Error(kept.error.message);
  const keep = kept.value.tckCycles / kept.value.payloadBits;
  add('flash write and verify', 'TCK cycles / payload bit', keep, 5, '≤ 1.05', keep <= 1.05);
  const again = await keepBitstream(chainOn(cable), read.value, null, unwatched);
  if (!again.ok) throw new Error(again.error.message);
  const unchanged = again.value.tckCycles / (read.value.stream.length * 8);
  add(
    'flash, the same again',
    'TCK cycles / image bit',
    unchanged,
    5,
    '≤ 1.03',
    unchanged <= 1.03 && again.value.pagesWritten === 0,
  );
  const request = {
    part: 'CV25',
    device: null,
    map: probed.probes as ProbeMap,
    recorder: null,
    when: '',
    before: 0,
    tckHz: bench.file.tckHz,
    clocks: { clk: 12e6 },
  };
  const captured = await captureNow(chainOn(cable), request);
  if (!captured.ok) throw new Error(captured.error.message);
  const readOut = captured.value.tckCycles / captured.value.payloadBits;
  add('capture read-out, 1024 samples', 'TCK cycles / payload bit', readOut, 5, '≤ 1.03', readOut <= 1.03);
}

function images(): void {
  const bytes = Uint8Array.from({ length: 1 << 22 }, (_, i) => (i * 2654435761) >>> 24);
  const hex = writeImage(imageOf(bytes), 'intel-hex', []);
  if (!hex.ok) throw new Error(hex.error.message);
  const start = performance.now();
  const record = writeImage(readImage(hex.value, []).image, 's-record', []);
  if (!record.ok) throw new Error(record.error.message);
  const seconds = (performance.now() - start) / 1000;
  add('4 MiB from Intel HEX to S-record', 's', seconds, 2, '≤ 1', seconds <= 1);
}

function builds(): void {
  const project = demoProject();
  const time = (work: () => unknown): number => {
    const start = performance.now();
    work();
    return (performance.now() - start) / 1000;
  };
  const memory: BuildMemory = { sources: new Map(), pieces: new PieceMemory() };
  const plan = demoPlan();
  const cold = time(() => build({ project, plan }));
  add('demo build from source, with its probes', 's, first in the process', cold, 2, '', null);
  // A server's thread has built something before anybody asks it to.
  warmUp();
  const first = time(() => build({ project, plan: { recorders: [], panels: [] } }, undefined, memory));
  add('demo build from source', 's', first, 2, '≤ 1', first <= 1);
  const probed = time(() => build({ project, plan }, undefined, memory));
  add('demo build with its probes', 's, the first with any', probed, 2, '', null);
  const smaller = { ...plan, recorders: plan.recorders.map((one) => ({ ...one, depth: 512 })) };
  const changed = time(() => build({ project, plan: smaller }, undefined, memory));
  add('demo build after a probe change', 's', changed, 2, '≤ 0.3', changed <= 0.3);
}

function edits(): void {
  const memory = { sources: new Map(), pieces: new PieceMemory() };
  const project = demoProject();
  const plan = demoPlan();
  build({ project, plan }, undefined, memory);
  const edited = {
    ...project,
    files: project.files.map((file) =>
      file.name === 'rtl/chamber.v' ? { ...file, text: file.text.replace("level + 1'b1", "level + 2'd2") } : file,
    ),
  };
  const start = performance.now();
  const { reuse } = build({ project: edited, plan }, undefined, memory);
  const seconds = (performance.now() - start) / 1000;
  add('demo build after one module changed', 's', seconds, 2, '≤ 0.7', seconds <= 0.7);
  add(
    'demo build after one module changed',
    'share of logic not mapped again',
    reuse.piecesKnown / reuse.pieces,
    2,
    '',
    null,
  );
}

function mapping(): void {
  const counted = smallCircuits();
  console.table(counted);
  const { mean, worst } = ratiosOf(counted);
  add('small circuits', 'tables against counts by hand, geometric mean', mean, 3, '≤ 1.05', mean <= 1.05);
  add('small circuits', 'the same, worst', worst, 2, '≤ 1.3', worst <= 1.3);
  const clock = sixDigits();
  add('a clock on six digits', 'tables', clock.luts, 0, '≤ 280', clock.luts <= 280);
  add('a clock on six digits', 'MHz at grade 2', clock.megahertz, 0, '≥ 150', clock.megahertz >= 150);
  for (const { design, tables, before, depth, depthBefore } of largeDesigns()) {
    add(design, 'tables', tables, 0, `≤ ${before}`, tables <= before);
    add(design, 'tables on the longest way', depth, 0, `≤ ${depthBefore}`, depth <= depthBefore);
  }
  for (const figure of coreFigures()) {
    const { core, value, reach, unit } = figure;
    add(core, unit, value, 0, `${unit === 'MHz' ? '≥' : '≤'} ${reach}`, isReached(figure));
  }
}

function svf(): void {
  const { times, heapMiB, megabytesPerSecond } = svfReading();
  add('SVF reading', 'time against one pass over the bytes', times, 1, '≤ 4', times <= 4);
  add('SVF reading, 200 MiB', 'growth of the heap, MiB', heapMiB, 0, 'flat', heapMiB < 32);
  add('SVF reading', 'MB/s', megabytesPerSecond, 0, '', null);
}

function vcd(): void {
  const { whole, one, megabytesPerSecond } = vcdReading();
  add('VCD reading, all signals kept', 'time against one pass over the bytes', whole, 1, '≤ 4', whole <= 4);
  add('VCD reading, one signal of 64', 'time against one pass over the bytes', one, 1, '≤ 4', one <= 4);
  add('VCD reading', 'MB/s', megabytesPerSecond, 0, '', null);
}

/** Time against n log n: how much more a cell costs in the largest design than in the smallest. */
function growing(): void {
  const sizes = growth();
  for (const { cells, seconds } of sizes) add(`build of ${cells} cells`, 's', seconds, 2, '', null);
  const cost = ({ cells, seconds }: (typeof sizes)[number]) => seconds / (cells * Math.log2(cells));
  // The first one also warms the machine up.
  const [, second] = sizes;
  const last = sizes.at(-1);
  if (second && last)
    add(
      'build, growth',
      'time / (n log n), largest against second smallest',
      cost(last) / cost(second),
      2,
      '≤ 1.5',
      cost(last) / cost(second) <= 1.5,
    );
}

function fabric(): void {
  for (const { design, wasm, javascript } of backendSpeeds()) {
    const real = wasm / 12e6;
    add(`fabric, ${design}`, 'Mcycles/s, WebAssembly', wasm / 1e6, 2, '', null);
    add(`fabric, ${design}`, 'Mcycles/s, JavaScript', javascript / 1e6, 2, '', null);
    add(`fabric, ${design}`, 'simulated time / wall time at 12 MHz', real, 2, '≥ 1', real >= 1);
  }
}

function events(): void {
  for (const { design, events, fabric, leaping } of eventSpeeds()) {
    const row = `event simulation, ${design}`;
    add(row, 'kcycles/s', events / 1e3, 0, '', null);
    add(row, '1 / share of the fabric’s, every edge in full', fabric / events, 1, '≤ 30', fabric <= 30 * events);
    add(row, '1 / share of the fabric’s, many edges at once', leaping / events, 1, '', null);
  }
  const heap = heapOverEvents();
  add('event simulation, 10 million events', 'growth of the heap, MiB', heap, 1, 'flat', heap < 8);
}

const REPLAY_SAMPLES = 1_000_000;

async function replays(): Promise<void> {
  for (const { design, stored, factor, planMilliseconds, computed, onward, fabric, written } of await replaySpeeds(
    REPLAY_SAMPLES,
  )) {
    const row = `replay, ${design}`;
    const least = design === 'SHA-256' ? 30 : design.includes('fewest') ? 10 : null;
    add(row, 'bits stored', stored, 0, '', null);
    add(
      row,
      'bits seen for one',
      factor,
      1,
      least === null ? '' : `≥ ${least}`,
      least === null ? null : factor >= least,
    );
    add(row, 'ms to work out what to record', planMilliseconds, 0, '', null);
    add(row, 's for a million samples', REPLAY_SAMPLES / computed, 1, '', null);
    const share = computed / written;
    add(row, 'share of the fabric’s speed, as much written down', share, 2, '≥ 0.33', share >= 1 / 3);
    const bare = computed / fabric;
    add(row, 'share of the fabric’s speed, nothing written down', bare, 2, '', null);
    const steady = onward / fabric;
    add(row, 'the same behind the first quarter', steady, 2, '≥ 0.33', steady >= 1 / 3);
  }
}

/** The whole board, its parts too, with an armed recorder, as the pod runs it. */
async function board(): Promise<void> {
  const { cable, bench } = lockhouse();
  const probed = builtDemo(demoPlan());
  const read = readBitstream(probed.bitstream);
  if (!read.ok) throw new Error(read.error.message);
  await loadBitstream(chainOn(cable), read.value, null, unwatched);
  await armRecorder(chainOn(cable), {
    part: 'CV25',
    device: null,
    map: probed.probes as ProbeMap,
    recorder: null,
    when: 'state == 7',
    before: 0,
    tckHz: bench.file.tckHz,
    clocks: { clk: 12e6 },
  });
  bench.advance(200_000);
  const start = performance.now();
  bench.advance(BOARD_MICROSECONDS);
  const real = BOARD_MICROSECONDS / 1000 / (performance.now() - start);
  add('the demo board with an armed recorder', 'simulated time / wall time', real, 2, '≥ 1.5', real >= 1.5);
}

function native(): void {
  const speeds = againstC();
  if (!speeds) add('the fabric against C', 'not measured: there is no cc', 0, 0, '', null);
  for (const { design, ratio } of speeds ?? [])
    add(`${design} against C at -O2`, 'time of the C / time here', ratio, 2, '≥ 0.9', ratio >= 0.9);
}

async function clocks(): Promise<void> {
  const { one, two, enabled, derived } = clockCosts();
  add(
    'two oscillators, half of the registers each',
    'time / that of one clock',
    two / one,
    2,
    '≤ 1.3',
    two <= 1.3 * one,
  );
  const ratio = derived / enabled;
  add('a clock that a divider makes', 'time / that of one clock with an enable', ratio, 2, '≤ 1.3', ratio <= 1.3);
  const board = await madeClockCosts();
  const made = board.made / board.plain;
  add('a clock that a generator makes', 'time / that of an oscillator as fast', made, 2, '≤ 1.3', made <= 1.3);
  const both = await madeBesideCosts();
  const beside = both.made / both.plain;
  add('the same beside another oscillator', 'time / that of two oscillators', beside, 2, '≤ 1.3', beside <= 1.3);
}

async function waveform(): Promise<void> {
  const redraw = await redrawTimes();
  if (!redraw) return void add('waveform, 64 signals × 1 M samples', 'not measured: build first', 0, 0, '', null);
  add('waveform, 64 signals × 1 M samples', 'ms to redraw, median', redraw.median, 2, '≤ 2', redraw.median <= 2);
  add('waveform, 64 signals × 1 M samples', 'ms to redraw, worst', redraw.worst, 2, '≤ 8', redraw.worst <= 8);
}

async function rest(): Promise<void> {
  const start = commandStart();
  add('the command starts', 's to its help, wall, best of 7', start, 2, '≤ 0.25', start <= 0.25);
  const { pace, times } = await armedWithPage();
  add(`the demo board, armed, a page open (${pace})`, 'its time / the pod’s', times, 2, '≥ 1.5', times >= 1.5);
  const shares = await atRest();
  add('a pod at rest, a page open', 'share of one core', shares.pod, 4, '≤ 0.01', shares.pod <= 0.01);
  add('the web process with an open page', 'share of one core', shares.web, 4, '≤ 0.03', shares.web <= 0.03);
}

async function table(): Promise<void> {
  const rate = await tableRows();
  add('a table of vectors on the hardware', 'rows / s, on the bench', rate, 0, '≥ 300', rate >= 300);
}

/** The wire to a microcontroller, with its firmware compiled for this computer. */
async function wire(): Promise<void> {
  const found = await wireFigures();
  if (!found) return;
  const { out, back, alone, trips } = found;
  add('the wire, long scans: TDI', 'bytes / payload byte', out, 3, '≤ 1.05', out <= 1.05);
  add('the wire, long scans: TDO', 'bytes / payload byte', back, 3, '≤ 1.05', back <= 1.05);
  add('the wire, nothing wanted back', 'bytes, both ways / payload byte', alone, 3, '≤ 1.05', alone <= 1.05);
  add('the wire at 1 Mbaud, 10 ms there and back', 'time / without', trips, 2, '≤ 1.05', trips <= 1.05);
}

async function far(): Promise<void> {
  const read = readBitstream(builtDemo().bitstream);
  if (!read.ok) throw new Error(read.error.message);
  const seconds = await farLoadSeconds(250, (client) => loadBitstream(chainOn(client), read.value, null, unwatched));
  add('a load through a pod 250 ms away each way', 's', seconds, 1, '≤ 15', seconds <= 15);
}

async function kept(): Promise<void> {
  const { normal, full } = await saveTimes();
  add('a save of a source, waiting for the disk at each commit', 'ms, median', full, 2, '', null);
  add('the same, waiting at checkpoints alone', 'ms, median', normal, 2, '', null);
  const heap = await heapOverCaptures();
  if (!heap) return;
  add('the page before any capture', 'MB of heap, collected', heap.before, 1, '', null);
  add('the page after 1,000 captures came', 'MB of heap, collected', heap.after, 1, '≤ 80', heap.after <= 80);
}

async function main(): Promise<void> {
  await cycles();
  images();
  builds();
  edits();
  growing();
  mapping();
  svf();
  vcd();
  fabric();
  events();
  await replays();
  native();
  await clocks();
  await board();
  await waveform();
  await rest();
  await table();
  await wire();
  await far();
  await kept();
  console.table(rows.map(({ met, ...row }) => ({ ...row, met: met === null ? '' : met ? 'yes' : 'no' })));
}

void main();
