import { z } from 'zod';
import { bitAt } from '../../bits/index.ts';
import type { BsdlEntity } from '../../bsdl/index.ts';
import { fail, ok, type Result } from '../../result.ts';
import type { DebugAccess, Family } from '../family.ts';
import type { ReadRegister } from '../register.ts';
import { drawingOf } from './drawing.ts';
import { knownFrom } from './known.ts';
import { problem } from './problems.ts';

/** A name of the description, or the opcode in binary digits behind 0b. */
const instruction = z.string().min(1).max(600);

/** What a project says of a part that is known by its BSDL file. docs/formats.md, section 2 */
export const foreignSettings = z.object({
  /** File of the project that describes the part. */
  bsdl: z.string().min(1),
  /** The instruction that selects the user register, and bits that the part puts between that register and TDO. */
  user: z.object({ instruction, prefix: z.number().int().min(0).max(64).default(0) }).optional(),
  /** Where it shows that a design runs: a pin, seen through SAMPLE, or a bit of a register. */
  done: z
    .union([
      z.object({ pin: z.string().min(1), level: z.union([z.literal(0), z.literal(1)]).default(1) }),
      z.object({
        instruction,
        /** Bits of the register, where the description does not say. */
        length: z.number().int().min(1).max(4096).optional(),
        bit: z.number().int().min(0),
        level: z.union([z.literal(0), z.literal(1)]).default(1),
      }),
    ])
    .optional(),
});

type ForeignSettings = Readonly<z.infer<typeof foreignSettings>>;

/**
 * A family of one part, of its description and what the project says of it. Fails where the description does not have
 * what is named.
 */
export function foreignFamily(entity: BsdlEntity, settings: ForeignSettings): Result<Family> {
  const known = knownFrom(entity);
  if (!known) return fail(problem('foreign-description', { part: entity.entity, bsdl: settings.bsdl }));
  const runs = settings.done === undefined ? ok(null) : runsRegister(entity, settings.done);
  if (!runs.ok) return runs;
  const opcode = settings.user === undefined ? ok(null) : opcodeOf(entity, settings.user.instruction);
  if (!opcode.ok) return opcode;
  const access: DebugAccess | null =
    opcode.value === null
      ? null
      : { opcode: opcode.value, late: settings.user?.prefix ?? 0, runs: runs.value, isNamed: true };
  const inCase = entity.packageName ?? '';
  return ok({
    name: entity.entity,
    devices: [known],
    packagesOf: (part) => (part === entity.entity && inCase !== '' ? [inCase] : []),
    drawing: () => drawingOf(entity),
    describe: () => null,
    debug: (part) => (part === entity.entity ? access : null),
    fpga: null,
  });
}

function opcodeOf(entity: BsdlEntity, name: string): Result<bigint> {
  const bare = /^0b([01]+)$/.exec(name)?.[1];
  const digits = bare ?? entity.instructions[name.toUpperCase()]?.[0]?.replace(/X/g, '0');
  const about = { part: entity.entity, name, irLength: entity.irLength };
  if (digits === undefined)
    return fail(problem('foreign-instruction', { ...about, names: Object.keys(entity.instructions).join(', ') }));
  if (digits.length !== entity.irLength) return fail(problem('foreign-instruction (length)', about));
  return ok(BigInt(`0b${digits}`));
}

function runsRegister(entity: BsdlEntity, done: NonNullable<ForeignSettings['done']>): Result<ReadRegister<boolean>> {
  const part = entity.entity;
  if ('pin' in done) {
    const port = entity.ports.find(
      ({ name, pin }) => pin === done.pin || name.toUpperCase() === done.pin.toUpperCase(),
    );
    const cell = entity.cells.find(
      (one) => port !== undefined && one.port === port.name && READS.has(one.function),
    )?.cell;
    const opcode = opcodeOf(entity, 'SAMPLE');
    if (cell === undefined || entity.boundaryLength === null || !opcode.ok)
      return fail(problem('foreign-pin', { part, pin: done.pin }));
    return ok(registerOf(opcode.value, entity.boundaryLength, cell, done.level));
  }
  const opcode = opcodeOf(entity, done.instruction);
  if (!opcode.ok) return opcode;
  const length =
    done.length ??
    entity.registers.find(({ instructions }) => instructions.includes(done.instruction.toUpperCase()))?.length ??
    null;
  if (length === null || done.bit >= length)
    return fail(problem('foreign-bit', { part, name: done.instruction, bit: done.bit, length }));
  return ok(registerOf(opcode.value, length, done.bit, done.level));
}

/** Cells that see what is on a pin. @source IEEE 1149.1, BSDL annex, boundary register description */
const READS: ReadonlySet<string> = new Set(['INPUT', 'OBSERVE_ONLY', 'BIDIR', 'CLOCK']);

const registerOf = (opcode: bigint, length: number, bit: number, level: 0 | 1): ReadRegister<boolean> => ({
  opcode,
  length,
  decode: (bits) => bitAt(bits, bit) === level,
});
