import { wireTarget } from '../../pod/index.ts';
import { firmwareProgram, firmwareWith } from '../../tests/support/firmware.ts';

const BAUD = 1_000_000;
const BITS_A_BYTE = 10;
const EACH_WAY_MILLISECONDS = 5;
const BYTES = 60_000;

/** What the wire to a microcontroller costs on long scans; null where there is no C compiler for its firmware. */
export async function wireFigures() {
  const program = firmwareProgram();
  if (program === null) return null;
  const ware = await firmwareWith(program);
  const pod = await wireTarget({ path: 'bench', baud: BAUD, open: ware.open });
  const tdi = Uint8Array.from({ length: BYTES }, (_, i) => (i * 37 + (i >> 8)) & 0xff);
  const scan = async (capture: boolean) => {
    const before = pod.link()?.counts ?? { bytesSent: 0, bytesReceived: 0 };
    const start = performance.now();
    await pod.cable.run([{ kind: 'shift', count: BYTES * 8, tdi, capture, exit: true }]);
    const after = pod.link()?.counts ?? before;
    return {
      seconds: (performance.now() - start) / 1000,
      sent: (after.bytesSent - before.bytesSent) / BYTES,
      received: (after.bytesReceived - before.bytesReceived) / BYTES,
    };
  };
  const both = await scan(true);
  const out = await scan(false);
  const wire = ware.wire();
  wire.bytesPerSecond = BAUD / BITS_A_BYTE;
  const near = await scan(true);
  wire.delay = EACH_WAY_MILLISECONDS;
  const far = await scan(true);
  pod.stop();
  ware.stop();
  return {
    out: both.sent,
    back: both.received,
    alone: out.sent + out.received,
    /** Time on a line of 1 Mbaud with 10 ms there and back, against the same line without. */
    trips: far.seconds / near.seconds,
  };
}
