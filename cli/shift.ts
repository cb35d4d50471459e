// `nimble chain shift`: one instruction and one register by hand.
import type { ChainSession } from '../core/board/index.ts';
import { type BsdlEntity, readBsdl } from '../core/bsdl/index.ts';
import { knownFrom } from '../core/families/index.ts';
import { descriptionOf, handHex, instructionsOf, scanByHand, typedBits } from '../core/operations/index.ts';
import { ProblemError, taken } from '../core/result.ts';
import type { ConnectionOptions } from './connection.ts';
import { readText } from './files.ts';
import { CallError } from './output.ts';
import { problem } from './problems.ts';

export interface ShiftOptions extends ConnectionOptions {
  readonly device: string;
  readonly instruction: string;
  readonly bsdl?: string;
  readonly length?: string;
  readonly value: string;
  readonly json?: boolean;
}

const LONGEST_OPCODE = 512;

export async function shiftByHand(chain: ChainSession, options: ShiftOptions) {
  const place = Number(options.device);
  if (!Number.isInteger(place) || place < 0) throw new CallError(`--device ${options.device} is no place in a chain.`);
  const given = options.bsdl === undefined ? null : described(options.bsdl);
  const known = given && knownFrom(given);
  if (known) chain.remember({ ...chain.memory, described: [...chain.memory.described, known] });
  const scan = await chain.rescan();
  const entity = given ?? descriptionOf(scan.devices[place]?.part ?? null);
  const all = entity ? instructionsOf(entity) : [];
  const named = all.find(({ name }) => name === options.instruction.toUpperCase());
  if (!named && !/^0[bx]/i.test(options.instruction))
    throw new ProblemError(
      problem('no-instruction', {
        name: options.instruction,
        names: all.map(({ name }) => name).join(', ') || 'none that is known here',
      }),
    );
  const opcode = BigInt(named ? `0b${named.opcode}` : handHex(taken(typedBits(options.instruction, LONGEST_OPCODE))));
  const length = options.length === undefined ? (named?.length ?? null) : Number(options.length);
  if (length === null || !Number.isInteger(length) || length < 1)
    throw new CallError(`How long the register behind ${options.instruction} is, is not known: say --length.`);
  const data = taken(typedBits(options.value, length));
  const { irCaptured, captured, irLength, tckCycles } = taken(await scanByHand(chain, { place, opcode, data }));
  return {
    device: place,
    instruction: named?.name ?? options.instruction,
    irLength,
    irCaptured: handHex(irCaptured),
    length,
    value: handHex(data),
    captured: captured && handHex(captured),
    tckCycles,
  };
}

function described(path: string): BsdlEntity {
  const { entity, problems } = readBsdl(readText(path));
  const wrong = problems.find(({ severity }) => severity === 'error');
  if (entity && !wrong) return entity;
  throw new ProblemError(
    problem('bad-bsdl', { path, line: wrong?.line ?? 1, why: wrong?.message ?? 'no description' }),
  );
}
