import { bitsFromBigInt, constantBits } from '../bits/index.ts';
import {
  type Bitstream,
  FAMILIES,
  type Family,
  type Part,
  partNamed,
  type ScanScript,
  type SpiScript,
} from '../families/index.ts';
import { COMMAND, type FlashPart, PAGE_BYTES, STATUS_BUSY, withAddress } from '../flash/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { SvfWriter } from '../svf/index.ts';

/**
 * Where the device stands: instruction lengths from the device nearest TDO on, and its place; and which families are
 * known, all where nothing else is said.
 */
export interface ChainPlace {
  readonly irLengths: readonly number[];
  readonly index: number;
  readonly families?: readonly Family[];
}

const WAKE_MICROSECONDS = 50;
const VERIFY_BYTES = 1 << 12;

/**
 * A load as a file instead of carried out: the same scans, with what the part must answer. Without somebody who can
 * wait, times are the longest ones.
 */
export function loadAsSvf(bitstream: Bitstream, place: ChainPlace, take: (text: string) => void): Result<null> {
  const opened = open(bitstream, place, take, 'Loads');
  if (!opened.ok) return opened;
  const { script, part } = opened.value;
  part.family.scriptLoad(script, bitstream);
  return ok(null);
}

/**
 * Writing the flash behind a part as a file: identity, erase, program, read back, each with what the chip must answer.
 */
export function keepAsSvf(
  bitstream: Bitstream,
  flash: FlashPart,
  place: ChainPlace,
  take: (text: string) => void,
): Result<null> {
  const opened = open(bitstream, place, take, 'Writes to the flash');
  if (!opened.ok) return opened;
  const { svf, script, part } = opened.value;
  const behind = part.family.flash;
  if (!behind) return fail(problem('no-flash', { name: part.name }));
  const image = bitstream.stream;
  if (image.length > flash.bytes)
    return fail(problem('flash-too-large (keepAsSvf)', { imageCount: image.length, bytes: flash.bytes }));
  svf.comment(`Flash ${flash.maker} ${flash.name}`);
  const spi = behind.script(script, place.irLengths.length);
  spi.send(Uint8Array.of(COMMAND.WAKE));
  svf.wait({ microseconds: WAKE_MICROSECONDS });
  spi.expect(Uint8Array.of(COMMAND.IDENTITY), Uint8Array.from(flash.identity), null);
  scriptWriting(spi, script, flash, image);
  return ok(null);
}

function scriptWriting(spi: SpiScript, script: ScanScript, flash: FlashPart, image: Uint8Array): void {
  const change = (command: Uint8Array, worst: number) => {
    spi.send(Uint8Array.of(COMMAND.WRITE_ENABLE));
    spi.send(command);
    script.wait({ microseconds: worst });
    spi.expect(Uint8Array.of(COMMAND.READ_STATUS), Uint8Array.of(0), Uint8Array.of(STATUS_BUSY));
  };
  for (let at = 0; at < image.length; at += flash.erase.bytes)
    change(withAddress(flash.erase.command, at), flash.erase.worst);
  for (let at = 0; at < image.length; at += PAGE_BYTES) {
    const page = image.subarray(at, at + PAGE_BYTES);
    if (page.some((byte) => byte !== 0xff))
      change(joined(withAddress(COMMAND.PAGE_PROGRAM, at), page), flash.page.worst);
  }
  for (let at = 0; at < image.length; at += VERIFY_BYTES)
    spi.expect(withAddress(COMMAND.READ, at), image.subarray(at, at + VERIFY_BYTES), null);
}

interface Opened {
  readonly svf: SvfWriter;
  readonly script: ScanScript;
  readonly part: Part;
}

function open(
  bitstream: Bitstream,
  { irLengths, index, families = FAMILIES }: ChainPlace,
  take: (text: string) => void,
  what: string,
): Result<Opened> {
  const part = partNamed(bitstream.part, families);
  const length = irLengths[index];
  if (!part || length === undefined) return fail(problem('no-device', { index }));
  if (length !== part.irLength)
    return fail(problem('wrong-part', { name: part.name, irLength: part.irLength, index, length }));
  const svf = new SvfWriter(take);
  const sum = (lengths: readonly number[]) => lengths.reduce((total, own) => total + own, 0);
  svf.comment(
    `${what} ${bitstream.top} for ${part.name}, fingerprint ${bitstream.fingerprint}\nDevice ${index} of ` +
      `${irLengths.length}, 0 nearest TDO`,
  );
  svf.pad(
    { irBits: sum(irLengths.slice(0, index)), devices: index },
    { irBits: sum(irLengths.slice(index + 1)), devices: irLengths.length - 1 - index },
  );
  const script: ScanScript = {
    select: (opcode) => svf.instruction(opcode, part.irLength),
    data: (tdi, expected) => svf.data(tdi, expected),
    wait: (time) => svf.wait(time),
  };
  script.select(part.idcodeOpcode);
  svf.data(constantBits(32, 0), {
    tdo: bitsFromBigInt(BigInt(part.idcode), 32),
    care: bitsFromBigInt(0x0fffffffn, 32),
  });
  return ok({ svf, script, part });
}

function joined(head: Uint8Array, tail: Uint8Array): Uint8Array {
  const out = new Uint8Array(head.length + tail.length);
  out.set(head);
  out.set(tail, head.length);
  return out;
}
