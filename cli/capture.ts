import { counted } from '../core/words.ts';
import { writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { captureNow, leversInForce } from '../core/operations/index.ts';
import { settle } from '../core/result.ts';
import {
  type Capture,
  odditiesOf,
  recordingOf,
  withLevers,
  writeCsv,
  writeJson,
  writeVcd,
} from '../core/wave/index.ts';
import { type Connection, type ConnectionOptions, connect, withConnection } from './connection.ts';
import { benchOf } from './files.ts';
import { runInstrumented } from './instrumented.ts';
import { deviceOption } from './load.ts';
import { CallError, report } from './output.ts';

interface Options extends ConnectionOptions {
  readonly plan?: string;
  readonly probes?: string;
  readonly recorder?: string;
  readonly when?: string;
  readonly before?: string;
  readonly keep?: string;
  readonly segments: string;
  readonly press?: string;
  readonly out?: string;
  readonly device?: string;
  readonly timeout: string;
  readonly json?: boolean;
}

const LOOK_MICROSECONDS = 20_000;
const PRESS_LOOKS = 3;

export function captureCommand(program: Command, failed: () => void): void {
  withConnection(
    program
      .command('capture')
      .description('arm a recorder, wait, read, write VCD')
      .argument('<folder>', 'project, or a .nbits with its .probes.json beside it')
      .option('--plan <file>', 'probe plan')
      .option('--recorder <name>', 'which recorder; the first one otherwise')
      .option('--when <condition>', 'a sentence of the trigger language; left out, a capture at once')
      .option('--before <samples>', 'samples kept from before the trigger')
      .option('--keep <expression>', 'store a sample only when this holds')
      .option('--segments <n>', 'short captures in one buffer', '1')
      .option('--press <control>', 'press this button of the board once armed')
      .option('--timeout <seconds>', 'give up waiting for the trigger', '10')
      .option('--device <n>', 'place in the chain, 0 nearest TDO')
      .option('--out <file>', 'VCD file; CSV or JSON by its ending'),
  ).action(async (path: string, options: Options) => {
    const before = options.before === undefined ? 0 : Number(options.before);
    const timeout = Number(options.timeout);
    const segments = Number(options.segments);
    if (!Number.isInteger(before) || !Number.isInteger(segments) || !(timeout > 0))
      throw new CallError('--before and --segments take whole numbers, --timeout seconds.');
    const connection = await connect(options, path.endsWith('.nbits') ? null : benchOf(path));
    try {
      const { part, map, clocks, hints } = await runInstrumented(
        connection,
        path,
        options,
        deviceOption(options.device),
      );
      let looks = 0;
      const pause = async () => {
        looks++;
        await press(connection, options.press, looks);
        await connection.chain.cable.run([{ kind: 'wait', microseconds: LOOK_MICROSECONDS }]);
        return looks * LOOK_MICROSECONDS <= timeout * 1e6;
      };
      const request = {
        part,
        device: deviceOption(options.device),
        map,
        recorder: options.recorder ?? null,
        when: options.when ?? '',
        keep: options.keep ?? '',
        before,
        segments,
        tckHz: connection.tckHz,
        clocks,
      };
      const outcome = await settle(() => captureNow(connection.chain, request, pause));
      if (!outcome.ok) {
        failed();
        return report(options.json ?? false, { problem: outcome.error }, () => '', outcome.error);
      }
      const { capture, tckCycles, payloadBits } = outcome.value;
      const levers = await settle(() => leversInForce(connection.chain, request));
      for (const { signal, message, cause } of odditiesOf(
        recordingOf(capture),
        withLevers(hints, levers.ok ? { levers: levers.value } : {}),
      ))
        console.error(`${signal} is ${message}. ${cause}`);
      if (options.out !== undefined) writeFileSync(options.out, written(capture, options.out));
      const signals = capture.signals.map(({ name, width, domain }) => ({ name, width, domain }));
      report(
        options.json ?? false,
        {
          samples: capture.samples,
          triggerIndex: capture.triggerIndex,
          sampleRate: Math.round(capture.sampleRate),
          tckCycles,
          payloadBits,
          signals,
        },
        () =>
          `${counted(capture.samples, 'sample')} of ${counted(signals.length, 'signal')}, trigger at ` +
          `${capture.triggerIndex}${options.out === undefined ? '' : `, written to ${options.out}`}`,
      );
    } finally {
      await connection.close();
    }
  });
}

function written(capture: Capture, file: string): string {
  if (file.endsWith('.csv')) return writeCsv(capture);
  return file.endsWith('.json') ? writeJson(capture) : writeVcd(capture, new Date().toISOString());
}

/** Down at the first look, up again a little later. */
async function press(connection: Connection, control: string | undefined, looks: number): Promise<void> {
  if (control === undefined) return;
  if (looks === 1) await connection.operate(control, true);
  if (looks === PRESS_LOOKS) await connection.operate(control, false);
}
