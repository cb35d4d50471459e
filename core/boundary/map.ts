import { type Bits, constantBits } from '../bits/index.ts';
import { setBit } from '../bits/index.ts';
import type { BsdlEntity } from '../bsdl/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';

/** A pin that the boundary register sees or drives. Cells are places in the register, 0 nearest TDO. */
export interface BoundaryPin {
  readonly port: string;
  readonly pin: string;
  /** Cell that captures the pad's level; null for an output that is not watched. */
  readonly input: number | null;
  /** Cell that drives the pad, and what must be in its control cell to let it; null for an input. */
  readonly output: {
    readonly cell: number;
    readonly control: { readonly cell: number; readonly on: 0 | 1 } | null;
  } | null;
}

/** What boundary scan needs of a device. Opcodes as shifted, bit 0 first. */
export interface BoundaryMap {
  readonly name: string;
  /** Case that the pins belong to; null where the description names none. */
  readonly packageName: string | null;
  readonly irLength: number;
  readonly length: number;
  readonly extest: Bits;
  readonly sample: Bits;
  readonly pins: readonly BoundaryPin[];
  /** Every cell at its safe value; X is taken as 0. Drivers with a control cell are off. */
  readonly safe: Bits;
}

/** The register as a map of pins. Fails where the description leaves out what boundary scan cannot do without. */
export function boundaryMap(entity: BsdlEntity): Result<BoundaryMap> {
  const { irLength, boundaryLength, instructions, cells } = entity;
  const [extest] = instructions.EXTEST ?? (irLength === null ? [] : ['0'.repeat(irLength)]);
  const [sample] = instructions.SAMPLE ?? instructions.PRELOAD ?? [];
  if (
    irLength === null ||
    boundaryLength === null ||
    extest === undefined ||
    sample === undefined ||
    cells.length === 0
  )
    return fail(problem('bsdl-incomplete', { entity: entity.entity }));
  const safe = constantBits(boundaryLength, 0);
  for (const cell of cells) if (cell.safe === '1') setBit(safe.bytes, cell.cell, 1);
  for (const { disable } of cells) if (disable) setBit(safe.bytes, disable.control, disable.value);
  const pins = entity.ports.flatMap((port): BoundaryPin[] => {
    const own = cells.filter((cell) => cell.port?.toLowerCase() === port.name.toLowerCase());
    const driver = own.find(
      (cell) => cell.function === 'OUTPUT3' || cell.function === 'BIDIR' || cell.function === 'OUTPUT2',
    );
    const reader =
      own.find((cell) => cell.function === 'INPUT' || cell.function === 'CLOCK' || cell.function === 'BIDIR') ??
      own.find((cell) => cell.function === 'OBSERVE_ONLY');
    if (!driver && !reader) return [];
    const disable = driver?.disable ?? null;
    return [
      {
        port: port.name,
        pin: port.pin ?? port.name,
        input: reader?.cell ?? null,
        output: driver
          ? {
              cell: driver.cell,
              control:
                disable && disable.control !== driver.cell
                  ? { cell: disable.control, on: disable.value === 1 ? 0 : 1 }
                  : null,
            }
          : null,
      },
    ];
  });
  return ok({
    name: entity.entity,
    packageName: entity.packageName,
    irLength,
    length: boundaryLength,
    extest: opcode(extest),
    sample: opcode(sample),
    pins,
    safe,
  });
}

/** X digits become 0. */
function opcode(digits: string): Bits {
  const bits = constantBits(digits.length, 0);
  for (let i = 0; i < digits.length; i++) if (digits[digits.length - 1 - i] === '1') setBit(bits.bytes, i, 1);
  return bits;
}
