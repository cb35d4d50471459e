import { type Bitstream, partNamed } from '../families/index.ts';
import { type CableState, describeIdcode } from '../jtag/index.ts';
import { isPowered, type Scan } from '../board/index.ts';

/** One thing looked at before the first bit. `stop` keeps the load from beginning, `warn` does not. */
export interface Check {
  readonly name: 'pod' | 'power' | 'device' | 'part' | 'package' | 'size' | 'crc' | 'fingerprint' | 'fresh' | 'age';
  readonly state: 'pass' | 'warn' | 'stop';
  readonly message: string;
}

/** What is known of a bitstream besides its bytes. Times in milliseconds since 1970. */
export interface LoadContext {
  /** Part and package of the board's description; null without one. */
  readonly boardPart: { readonly part: string; readonly package: string | null } | null;
  /** Fingerprint of the newest build; null without one. */
  readonly buildPrint: string | null;
  /** Edits since that build, in words. */
  readonly stale: readonly string[];
  readonly madeAt: number | null;
  readonly sourcesSavedAt: number | null;
  /** What the device runs now. */
  readonly running: string | null;
}

/** Everything that can be known before the first bit is sent. `state` is null when the pod does not answer. */
export function checkLoad(
  bitstream: Bitstream,
  place: number | null,
  state: CableState | null,
  scan: Scan | null,
  context: LoadContext,
): Check[] {
  const checks: Check[] = [];
  const add = (name: Check['name'], ok: boolean, otherwise: 'warn' | 'stop', message: string) =>
    checks.push({ name, state: ok ? 'pass' : otherwise, message });
  if (!state) add('pod', false, 'stop', 'The pod does not answer.');
  else {
    add(
      'pod',
      state.attached,
      'stop',
      state.attached
        ? `It answers, TCK at ${state.tckHz / 1e6} MHz.`
        : (state.trouble?.message ?? 'No cable is plugged into the board.'),
    );
    add(
      'power',
      isPowered(state) !== false,
      'stop',
      state.referenceVolts === null
        ? 'Not measured: this pod has no wire for the reference voltage.'
        : `The reference voltage is ${state.referenceVolts.toFixed(1)} V.`,
    );
  }
  checkDevice(bitstream, place, scan, add);
  checkStream(bitstream, context, add);
  const { buildPrint, running, stale, madeAt, sourcesSavedAt } = context;
  const own = bitstream.fingerprint.slice(0, 8);
  if (running === bitstream.fingerprint)
    add('fingerprint', true, 'warn', `${own} runs already; loading starts it anew.`);
  else
    add(
      'fingerprint',
      buildPrint === null || buildPrint === bitstream.fingerprint,
      'warn',
      buildPrint === null || buildPrint === bitstream.fingerprint
        ? `${own}.`
        : `${own} is not the newest build, which is ${buildPrint.slice(0, 8)}; probes of that build will not fit.`,
    );
  if (buildPrint === bitstream.fingerprint)
    add(
      'fresh',
      stale.length === 0,
      'warn',
      stale.length === 0 ? 'Nothing was edited since it was built.' : `Edited since: ${stale.join(', ')}.`,
    );
  if (madeAt !== null && sourcesSavedAt !== null)
    add(
      'age',
      madeAt >= sourcesSavedAt,
      'warn',
      madeAt >= sourcesSavedAt ? 'The file is newer than its sources.' : 'A source was saved after this file was made.',
    );
  return checks;
}

type Add = (name: Check['name'], ok: boolean, otherwise: 'warn' | 'stop', message: string) => void;

function checkDevice({ part }: Bitstream, place: number | null, scan: Scan | null, add: Add): void {
  const wanted = partNamed(part);
  if (!scan) return add('device', false, 'stop', 'The chain has not been scanned.');
  const [trouble] = scan.problems;
  if (trouble) return add('device', false, 'stop', trouble.message);
  const fits = scan.devices.filter((device) => device.candidates.includes(part));
  const device = place === null ? (fits.length === 1 ? fits[0] : undefined) : scan.devices[place];
  if (!device)
    return add(
      'device',
      false,
      'stop',
      place === null ? choiceOf(part, fits.length) : `There is no place ${place} in the chain.`,
    );
  add('device', true, 'stop', `Place ${device.index} of ${scan.devices.length}; the others are in BYPASS.`);
  const found =
    device.candidates.join(' or ') ||
    (device.idcode === null ? 'a device without IDCODE' : describeIdcode(device.idcode));
  if (!device.candidates.includes(part))
    add('part', false, 'stop', `It is for ${wanted?.name ?? part}, the device is ${found}.`);
  else
    add(
      'part',
      device.candidates.length === 1,
      'warn',
      device.candidates.length === 1
        ? `${part}, as the IDCODE says.`
        : `The IDCODE is shared: ${found}. Say under Bench which it is.`,
    );
}

const choiceOf = (part: string, fitting: number): string =>
  fitting === 0 ? `No device in the chain is a ${part}.` : `${fitting} devices may be a ${part}; choose one.`;

function checkStream({ part, package: packageName, stream }: Bitstream, { boardPart }: LoadContext, add: Add): void {
  const wanted = partNamed(part);
  if (!wanted) return add('part', false, 'stop', `${part} is no part known here.`);
  const onBoard = boardPart && (boardPart.package ?? partNamed(boardPart.part)?.packages[0]);
  if (onBoard) {
    const own = packageName ?? wanted.packages[0] ?? '';
    add(
      'package',
      onBoard === own,
      'stop',
      onBoard === own
        ? `${own}, as the board's description says.`
        : `It is for package ${own}, the board carries ${onBoard}.`,
    );
  }
  const size = wanted.family.stream.bytes(wanted);
  add(
    'size',
    stream.length === size,
    'stop',
    stream.length === size ? `${stream.length} bytes.` : `${stream.length} bytes; a stream for ${part} has ${size}.`,
  );
  const { idcode, isWhole } = wanted.family.stream.facts(stream);
  add(
    'crc',
    isWhole && idcode === wanted.idcode,
    'stop',
    !isWhole
      ? 'The CRC of the stream is wrong: the file is damaged.'
      : idcode === wanted.idcode
        ? 'The CRC of the stream is right.'
        : 'The stream names another IDCODE than its header.',
  );
}
