import { reverseByte } from '../../bits/index.ts';
import { type ChainLink, describeIdcode } from '../../jtag/index.ts';
import { stopIfCancelled, type Watch } from '../../progress.ts';
import type { Problem } from '../../result.ts';
import { problem } from './problems.ts';
import type { ConfigureReport, StreamFor } from '../family.ts';
import { readNow } from '../register.ts';
import type { ConfigStatus } from '../status.ts';
import { INSTRUCTION, PART_TABLE } from './parts.ts';
import { STATUS_REGISTER } from './registers.ts';

const CLEAR_POLLS = 50;
const CLEAR_MICROSECONDS = 200;
const STARTUP_CLOCKS = 32;
const CHUNK_BYTES = 1 << 15;

/**
 * Writes a stream into the configuration memory of one part and starts it. The part checks IDCODE and CRC itself; what
 * it says is in the status. IEEE 1532 names the instructions.
 */
export async function configure(link: ChainLink, bitstream: StreamFor, watch: Watch): Promise<ConfigureReport> {
  const { queue } = link;
  const start = queue.counts;
  const bits = bitstream.stream.length * 8;
  watch.report({ phase: 'Clearing', done: 0, total: bits, unit: 'bit' });
  link.select(INSTRUCTION.ISC_ENABLE);
  const cleared = await waitForInit(link);
  if (cleared) {
    link.select(INSTRUCTION.ISC_PROGRAM);
    await shiftStream(link, bitstream.stream, watch);
    queue.countPayload(bits);
  }
  link.select(INSTRUCTION.ISC_DISABLE);
  queue.clock(STARTUP_CLOCKS);
  const status = await readStatus(link);
  const counts = {
    tckCycles: queue.counts.tckCycles - start.tckCycles,
    payloadBits: queue.counts.payloadBits - start.payloadBits,
  };
  return { done: status.done, status, counts, problem: status.done ? null : explain(status, bitstream) };
}

async function waitForInit(link: ChainLink): Promise<boolean> {
  for (let poll = 0; poll < CLEAR_POLLS; poll++) {
    link.queue.wait(CLEAR_MICROSECONDS);
    if ((await readStatus(link)).memoryClear) return true;
  }
  return false;
}

/** One scan, sent in pieces with TCK resting between them, so that a cancel is heard and progress is seen. */
async function shiftStream(link: ChainLink, stream: Uint8Array, watch: Watch): Promise<void> {
  const total = stream.length * 8;
  const shifted = stream.map(reverseByte);
  let sent = 0;
  for (let at = 0; at < shifted.length; at += CHUNK_BYTES) {
    stopIfCancelled(watch, 'The part is empty: its configuration memory was cleared and only partly written.');
    const part = shifted.subarray(at, at + CHUNK_BYTES);
    link.stream({ length: part.length * 8, bytes: part }, at + CHUNK_BYTES >= shifted.length);
    await link.queue.flush();
    sent += part.length * 8;
    watch.report({ phase: 'Loading', done: sent, total, unit: 'bit' });
  }
}

const readStatus = (link: ChainLink): Promise<ConfigStatus> => readNow(link, STATUS_REGISTER);

function explain(status: ConfigStatus, { part }: StreamFor): Problem {
  if (!status.memoryClear) return problem('not-cleared');
  if (status.idcodeMismatch)
    return problem('idcode-mismatch', {
      idcode: describeIdcode(PART_TABLE.find(({ name }) => name === part)?.idcode ?? 0),
      part,
    });
  if (status.crcError) return problem('crc-error');
  if (!status.startSeen) return problem('no-start-word');
  return problem('done-low');
}
