import type { BoardView } from '../core/board/index.ts';
import type { Cable, CableOp } from '../core/jtag/index.ts';
import type { PodTarget } from '../core/pod/index.ts';
import { ok } from '../core/result.ts';
import { Bench } from './bench.ts';
import { readBenchFile } from './bench-file.ts';
import { BenchCable, benchHands } from './cable.ts';
import { isFaultName } from './faults.ts';
import { RealTime } from './real-time.ts';

const BUSY_MILLISECONDS = 40;
const WAIT_SLICE_MICROSECONDS = 20_000;

/**
 * A bench whose time goes with the clock on the wall, as a pod owns it. `kept` hears when flash may have changed, and of
 * which bench.
 */
export function benchTarget(bench: Bench, kept: (bench: Bench) => void = () => {}): PodTarget & { stop(): void } {
  const clock = new RealTime(bench);
  clock.start();
  return {
    name: bench.file.name,
    cable: new LiveCable(bench, clock),
    controls: {
      ...benchHands(bench),
      bootSource: async (source) => bench.setBootSource(source),
      operate: async (name, on) => bench.operate(name, on),
      turn: async (name, value) => bench.turn(name, value),
    },
    view: () => viewOf(bench),
    practice: {
      faults: () => bench.faults,
      set: (name, on) => {
        if (!isFaultName(name)) return false;
        bench.setFault({ name }, on);
        return true;
      },
    },
    ...(bench.serial ? { line: bench.serial } : {}),
    speed: () => clock.speed,
    kept: () => kept(bench),
    rebuilt: (text) => {
      const read = readBenchFile(text, 'The bench file');
      if (!read.ok) return read;
      clock.stop();
      // On the same chain the chips are the same ones.
      const isSame = JSON.stringify(read.value.chain) === JSON.stringify(bench.file.chain);
      const made = new Bench(read.value, isSame ? bench.flashContents : new Map());
      kept(made);
      return ok(benchTarget(made, kept));
    },
    stop: () => clock.stop(),
  };
}

/** The bench's cable in real time: a batch ends when the wall has caught up with it, and others are heard meanwhile. */
class LiveCable extends BenchCable implements Cable {
  readonly #bench: Bench;
  readonly #clock: RealTime;

  constructor(bench: Bench, clock: RealTime) {
    super(bench);
    this.#bench = bench;
    this.#clock = clock;
  }

  override async run(ops: readonly CableOp[]): Promise<readonly Uint8Array[]> {
    const answers: Uint8Array[] = [];
    let since = performance.now();
    const breathe = async () => {
      if (performance.now() - since < BUSY_MILLISECONDS) return;
      await new Promise((resolve) => setImmediate(resolve));
      since = performance.now();
    };
    for (const op of ops.flatMap(sliced)) {
      answers.push(...this.#bench.run([op]));
      await breathe();
    }
    await this.#clock.catchUp();
    return answers;
  }
}

/** Long waits in slices, so that the simulation never works long without listening. */
function sliced(op: CableOp): CableOp[] {
  if (op.kind !== 'wait') return [op];
  const count = Math.max(1, Math.ceil(op.microseconds / WAIT_SLICE_MICROSECONDS));
  return Array.from({ length: count }, () => ({ kind: 'wait', microseconds: op.microseconds / count }));
}

function viewOf(bench: Bench): BoardView {
  const { board } = bench.file;
  const { time, powered, bootSource, done, fpga, lamps, buttons, switches, digits, oscillators, lock, ...more } =
    bench.panel();
  return {
    time,
    fpga,
    parts: [
      { kind: 'lamp', name: 'power', label: 'power', pin: null, level: powered ? 1 : 0, hertz: null },
      { kind: 'lamp', name: 'done', label: 'DONE', pin: null, level: done[String(fpga)] ? 1 : 0, hertz: null },
      { kind: 'selector', name: 'boot', label: 'Boot', position: bootSource, positions: ['flash', 'jtag'] },
      ...(digits.length > 0
        ? [{ kind: 'digits' as const, name: 'digits', pins: pinsOf(board.digits), rows: digits.map((row) => [...row]) }]
        : []),
      ...(lock ? [{ kind: 'scene' as const, name: 'lock', scene: 'canal-lock', state: { ...lock } }] : []),
      ...lamps.map((lamp) => ({ kind: 'lamp' as const, ...lamp })),
      ...buttons.map((button) => ({ kind: 'button' as const, ...button })),
      ...switches.map((one) => ({ kind: 'switch' as const, ...one })),
      ...more.displays.map((one, i) => ({
        kind: 'text' as const,
        ...one,
        pins: pinsOf(board.displays[i]),
        rows: [...one.rows],
      })),
      ...more.keyboards.map((one, i) => ({
        kind: 'keyboard' as const,
        ...one,
        pins: pinsOf(board.keyboards[i]),
        keys: [...one.keys],
        down: [...one.down],
      })),
      ...more.sensors.map((one, i) => ({ kind: 'dial' as const, ...one, pins: pinsOf(board.sensors[i]) })),
      ...oscillators.map((one) => ({ kind: 'oscillator' as const, ...one })),
    ],
  };
}

const WIRES = ['segments', 'commons', 'enable', 'select', 'clock', 'data', 'out'] as const;

/** Pins of a part by its wires. */
const pinsOf = (part: Readonly<Partial<Record<(typeof WIRES)[number], string | readonly string[]>>> | undefined) =>
  WIRES.flatMap((wire) => part?.[wire] ?? []);
