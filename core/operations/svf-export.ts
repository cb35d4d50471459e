import { bitsFromBigInt, type Bits, concatBits, constantBits, reverseByte, sliceBits } from '../bits/index.ts';
import { type Bitstream, INSTRUCTION, partNamed, STATUS } from '../fabric/index.ts';
import { COMMAND, type FlashPart, PAGE_BYTES, STATUS_BUSY, withAddress } from '../flash/index.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { type SvfExpected, SvfWriter } from '../svf/index.ts';

/** Where the device stands: instruction lengths from the device nearest TDO on, and its place. */
export interface ChainPlace {
  readonly irLengths: readonly number[];
  readonly index: number;
}

const CLEAR_MICROSECONDS = 1000;
const STARTUP_CLOCKS = 64;
const WAKE_MICROSECONDS = 50;
const VERIFY_BYTES = 1 << 12;

/**
 * A load as a file instead of carried out: the same scans, with what the part must answer. Without somebody who can
 * wait, times are the longest ones.
 */
export function loadAsSvf(bitstream: Bitstream, place: ChainPlace, take: (text: string) => void): Result<null> {
  const opened = open(bitstream, place, take, 'Loads');
  if (!opened.ok) return opened;
  const { svf, select, status } = opened.value;
  select(INSTRUCTION.ISC_ENABLE);
  svf.wait({ microseconds: CLEAR_MICROSECONDS });
  status([[STATUS.CLEAR, 1]]);
  select(INSTRUCTION.ISC_PROGRAM);
  svf.data(shifted(bitstream.stream));
  select(INSTRUCTION.ISC_DISABLE);
  svf.wait({ clocks: STARTUP_CLOCKS });
  status([
    [STATUS.IDCODE_MISMATCH, 0],
    [STATUS.CRC_ERROR, 0],
    [STATUS.DONE, 1],
  ]);
  select(INSTRUCTION.CFG_PRINT);
  const print = Uint8Array.from(bitstream.fingerprint.match(/../g) ?? [], (byte) => Number.parseInt(byte, 16));
  svf.data(constantBits(128, 0), { tdo: shifted(print), care: null });
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
  const { svf, select } = opened.value;
  const image = bitstream.stream;
  if (image.length > flash.bytes)
    return fail(
      problem(
        'flash-too-large',
        `The image has ${image.length} bytes, the chip ${flash.bytes}.`,
        'Choose a larger chip.',
      ),
    );
  const spi = new SpiScans(svf, place);
  svf.comment(`Flash ${flash.maker} ${flash.name}`);
  select(INSTRUCTION.SPI_LINK);
  spi.send(Uint8Array.of(COMMAND.WAKE));
  svf.wait({ microseconds: WAKE_MICROSECONDS });
  spi.expect(Uint8Array.of(COMMAND.IDENTITY), Uint8Array.from(flash.identity), null);
  const change = (command: Uint8Array, worst: number) => {
    spi.send(Uint8Array.of(COMMAND.WRITE_ENABLE));
    spi.send(command);
    svf.wait({ microseconds: worst });
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
  return ok(null);
}

interface Opened {
  readonly svf: SvfWriter;
  readonly select: (opcode: number) => void;
  readonly status: (bits: readonly (readonly [number, 0 | 1])[]) => void;
}

function open(
  bitstream: Bitstream,
  { irLengths, index }: ChainPlace,
  take: (text: string) => void,
  what: string,
): Result<Opened> {
  const part = partNamed(bitstream.part);
  const length = irLengths[index];
  if (!part || length === undefined)
    return fail(
      problem('no-device', `There is no device ${index} in the chain.`, 'Count from 0, the device nearest TDO.'),
    );
  if (length !== part.irLength)
    return fail(
      problem(
        'wrong-part',
        `This is for a ${part.name} with ${part.irLength} instruction bits; device ${index} has ${length}.`,
        'Name the right device.',
      ),
    );
  const svf = new SvfWriter(take);
  const sum = (lengths: readonly number[]) => lengths.reduce((total, own) => total + own, 0);
  svf.comment(
    `${what} ${bitstream.top} for ${part.name}, fingerprint ${bitstream.fingerprint}\nDevice ${index} of ${irLengths.length}, 0 nearest TDO`,
  );
  svf.pad(
    { irBits: sum(irLengths.slice(0, index)), devices: index },
    { irBits: sum(irLengths.slice(index + 1)), devices: irLengths.length - 1 - index },
  );
  const select = (opcode: number) => svf.instruction(opcode, part.irLength);
  select(INSTRUCTION.IDCODE);
  svf.data(constantBits(32, 0), {
    tdo: bitsFromBigInt(BigInt(part.idcode), 32),
    care: bitsFromBigInt(0x0fffffffn, 32),
  });
  const status = (bits: readonly (readonly [number, 0 | 1])[]) => {
    const word = (value: (bit: 0 | 1) => bigint) =>
      bitsFromBigInt(
        bits.reduce((all, [place, bit]) => all | (value(bit) << BigInt(place)), 0n),
        32,
      );
    select(INSTRUCTION.CFG_STATUS);
    svf.data(constantBits(32, 0), { tdo: word(BigInt), care: word(() => 1n) });
  };
  return ok({ svf, select, status });
}

/**
 * SPI_LINK framing: a 1 opens the scan, the answer leaves one cycle late and crosses the devices around.
 * docs/silicon.md, section 7
 */
class SpiScans {
  readonly #svf: SvfWriter;
  readonly #delay: number;

  constructor(svf: SvfWriter, { irLengths }: ChainPlace) {
    this.#svf = svf;
    this.#delay = irLengths.length - 1 + 2;
  }

  send(bytes: Uint8Array): void {
    this.#svf.data(concatBits(constantBits(1, 1), shifted(bytes)));
  }

  /** `care` has a 1 for each bit of the answer that counts; null for all. */
  expect(command: Uint8Array, answer: Uint8Array, care: Uint8Array | null): void {
    const from = this.#delay + command.length * 8;
    const length = from + answer.length * 8;
    const tdi = concatBits(constantBits(1, 1), shifted(command));
    const placed = (bits: Bits) => concatBits(constantBits(from, 0), bits);
    const expected: SvfExpected = {
      tdo: placed(shifted(answer)),
      care: placed(care ? shifted(care) : constantBits(answer.length * 8, 1)),
    };
    this.#svf.data(
      tdi.length < length ? concatBits(tdi, constantBits(length - tdi.length, 0)) : sliceBits(tdi, 0, length),
      expected,
    );
  }
}

/** Bytes that go out bit 7 first, as a scan shifts them. */
const shifted = (bytes: Uint8Array): Bits => ({ length: bytes.length * 8, bytes: Uint8Array.from(bytes, reverseByte) });

function joined(head: Uint8Array, tail: Uint8Array): Uint8Array {
  const out = new Uint8Array(head.length + tail.length);
  out.set(head);
  out.set(tail, head.length);
  return out;
}
