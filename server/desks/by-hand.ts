// The chain by hand: descriptions that are kept, and one instruction and one register at a time.
import { bitsFromBigInt } from '../../core/bits/index.ts';
import type { BsdlEntity } from '../../core/bsdl/index.ts';
import {
  descriptionOf,
  handHex,
  type HandInstruction,
  instructionsOf,
  scanByHand,
} from '../../core/operations/index.ts';
import { ok, type Result } from '../../core/result.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'board' | 'store' | 'project'>;

/** A description that is kept, for all projects. */
interface KeptDescription {
  readonly name: string;
  readonly package: string | null;
  /** Thirty-two digits, most significant first, X where a digit does not count; null for a device without one. */
  readonly idcode: string | null;
  readonly irLength: number | null;
  readonly boundaryLength: number | null;
  readonly instructions: readonly HandInstruction[];
  readonly added: string;
}

export async function keptDescriptions(on: Needs): Promise<readonly KeptDescription[]> {
  const rows = await on.store.files.descriptionRows();
  return rows.map(({ entity, added }) => ({
    name: entity.entity,
    package: entity.packageName,
    idcode: entity.idcode,
    irLength: entity.irLength,
    boundaryLength: entity.boundaryLength,
    instructions: instructionsOf(entity),
    added,
  }));
}

/** What can be selected at a place of the chain that was scanned last; no instructions where nobody described it. */
export async function instructionsNow(
  on: Needs,
  place: number,
): Promise<{ readonly part: string | null; readonly instructions: readonly HandInstruction[] }> {
  const part = on.board.said.scan?.devices[place]?.part ?? null;
  const entity = part === null ? null : ((await given(on, part)) ?? descriptionOf(part));
  return { part, instructions: entity ? instructionsOf(entity) : [] };
}

const given = async (on: Needs, part: string): Promise<BsdlEntity | null> =>
  (await on.store.files.descriptions()).find(({ entity }) => entity === part) ?? null;

/** A scan as the page asks for it. Values have 0x before their hexadecimal digits, opcodes are binary digits. */
export interface HandWish {
  readonly place: number;
  readonly opcode: string;
  readonly data: { readonly value: string; readonly length: number } | null;
}

interface HandCame {
  readonly irLength: number;
  readonly irCaptured: string;
  readonly captured: string | null;
  readonly tckCycles: number;
  /** Instruction lengths of the chain, from the device nearest TDO on. */
  readonly irLengths: readonly number[];
}

export async function shiftNow(on: Needs, { place, opcode, data }: HandWish): Promise<Result<HandCame>> {
  return on.board.cable(async (chain): Promise<Result<HandCame>> => {
    const asked = await scanByHand(chain, {
      place,
      opcode: BigInt(`0b${opcode}`),
      data: data && bitsFromBigInt(BigInt(data.value), data.length),
    });
    if (!asked.ok) return asked;
    const { irLength, irCaptured, captured, tckCycles } = asked.value;
    return ok({
      irLength,
      irCaptured: handHex(irCaptured),
      captured: captured && handHex(captured),
      tckCycles,
      irLengths: chain.scan?.devices.map((device) => device.irLength ?? 0) ?? [],
    });
  });
}
