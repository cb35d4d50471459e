import { type Bits, concatBits, constantBits, bitsFromBigInt, reverseByte, sliceBits } from '../../bits/index.ts';
import type { ScanScript, SpiScript, StreamFor } from '../family.ts';
import { INSTRUCTION } from './parts.ts';
import { STATUS } from './status.ts';

const CLEAR_MICROSECONDS = 1000;
const STARTUP_CLOCKS = 64;

/** A load as scans that are written down. docs/silicon.md, section 3 */
export function scriptLoad(script: ScanScript, { stream, fingerprint }: StreamFor): void {
  script.select(INSTRUCTION.ISC_ENABLE);
  script.wait({ microseconds: CLEAR_MICROSECONDS });
  expectStatus(script, [[STATUS.CLEAR, 1]]);
  script.select(INSTRUCTION.ISC_PROGRAM);
  script.data(shifted(stream));
  script.select(INSTRUCTION.ISC_DISABLE);
  script.wait({ clocks: STARTUP_CLOCKS });
  expectStatus(script, [
    [STATUS.IDCODE_MISMATCH, 0],
    [STATUS.CRC_ERROR, 0],
    [STATUS.DONE, 1],
  ]);
  script.select(INSTRUCTION.CFG_PRINT);
  const print = Uint8Array.from(fingerprint.match(/../g) ?? [], (byte) => Number.parseInt(byte, 16));
  script.data(constantBits(128, 0), { tdo: shifted(print), care: null });
}

function expectStatus(script: ScanScript, bits: readonly (readonly [number, 0 | 1])[]): void {
  const word = (value: (bit: 0 | 1) => bigint) =>
    bitsFromBigInt(
      bits.reduce((all, [place, bit]) => all | (value(bit) << BigInt(place)), 0n),
      32,
    );
  script.select(INSTRUCTION.CFG_STATUS);
  script.data(constantBits(32, 0), { tdo: word(BigInt), care: word(() => 1n) });
}

/**
 * SPI_LINK framing: a 1 opens the scan, the answer leaves one cycle late and crosses the other devices.
 * docs/silicon.md, section 7
 */
export function scriptFlash(script: ScanScript, devices: number): SpiScript {
  const delay = devices - 1 + 2;
  script.select(INSTRUCTION.SPI_LINK);
  return {
    send: (bytes) => script.data(concatBits(constantBits(1, 1), shifted(bytes))),
    expect: (command, answer, care) => {
      const from = delay + command.length * 8;
      const length = from + answer.length * 8;
      const tdi = concatBits(constantBits(1, 1), shifted(command));
      const placed = (bits: Bits) => concatBits(constantBits(from, 0), bits);
      script.data(
        tdi.length < length ? concatBits(tdi, constantBits(length - tdi.length, 0)) : sliceBits(tdi, 0, length),
        { tdo: placed(shifted(answer)), care: placed(care ? shifted(care) : constantBits(answer.length * 8, 1)) },
      );
    },
  };
}

/** Bytes that go out bit 7 first, as a scan shifts them. */
const shifted = (bytes: Uint8Array): Bits => ({ length: bytes.length * 8, bytes: bytes.map(reverseByte) });
