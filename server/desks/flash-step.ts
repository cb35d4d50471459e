import {
  blankCheck,
  crcOfFlash,
  eraseFlash,
  fillFlash,
  type ReachedFlash,
  reachFlash,
  readFromFlash,
  supplyLost,
  verifyFlash,
} from '../../core/operations/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Given } from './needs.ts';
import { counted } from '../../core/words.ts';
import { keepSubject } from './keep-subject.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'project' | 'reading' | 'changed'>;

/** One thing done to the flash by itself. Addresses and lengths in bytes. */
export type FlashStep =
  | { readonly what: 'blank' | 'erase' | 'read' | 'crc'; readonly address: number; readonly length: number }
  | { readonly what: 'fill'; readonly address: number; readonly length: number; readonly byte: number }
  | { readonly what: 'verify' };

const TITLES: Readonly<Record<FlashStep['what'], string>> = {
  blank: 'Blank check',
  erase: 'Erase',
  read: 'Read flash',
  crc: 'CRC of the flash',
  fill: 'Fill',
  verify: 'Verify flash',
};

export function flashStep(on: Needs, step: FlashStep): number {
  return on.jobs.start('cable', {
    kind: 'flash',
    title: TITLES[step.what],
    board: on.board.name,
    work: async (watch, note) => {
      const subject = await keepSubject(on);
      if (!subject.ok) return subject;
      if (step.what !== 'verify') note({ stretch: `${hex(step.address)}, ${counted(step.length, 'byte')}` });
      return on.board.cable(async (chain) => {
        const reached = await reachFlash(chain, null, subject.value.fpga);
        if (!reached.ok) return reached;
        const worked = await carryOut(on, step, reached.value, subject.value.blocks, watch);
        return worked.ok ? worked : ((await supplyLost(chain)) ?? worked);
      });
    },
  }).id;
}

async function carryOut(
  on: Needs,
  step: FlashStep,
  flash: ReachedFlash,
  blocks: Parameters<typeof verifyFlash>[1],
  watch: Watch,
): Promise<Result<string>> {
  switch (step.what) {
    case 'verify': {
      const same = await verifyFlash(flash, blocks, watch);
      return same.ok
        ? ok(`The flash holds all ${blocks.length === 1 ? 'of it' : `${blocks.length} blocks`}, byte for byte.`)
        : same;
    }
    case 'blank': {
      const found = await blankCheck(flash, step.address, step.length, watch);
      if (!found.ok) return found;
      return found.value === null
        ? ok(`Blank: ${counted(step.length, 'byte')}, all FF.`)
        : fail(problem('not-blank', { address: hex(found.value) }));
    }
    case 'erase': {
      const erased = await eraseFlash(flash, step.address, step.length, forgetting(on, watch));
      if (!erased.ok) return erased;
      const blank = await blankCheck(flash, step.address, step.length, watch);
      if (!blank.ok) return blank;
      return blank.value === null
        ? ok(`${counted(erased.value.sectorsErased, 'block')} erased, and blank.`)
        : fail(problem('not-blank (carryOut)', { address: hex(blank.value) }));
    }
    case 'fill': {
      const filled = await fillFlash(flash, step.address, step.length, step.byte, forgetting(on, watch));
      return filled.ok
        ? ok(
            `${counted(step.length, 'byte')} filled with ${hex(step.byte)}: ` +
              `${counted(filled.value.sectorsErased, 'block')} erased, ` +
              `${counted(filled.value.pagesWritten, 'page')} written and verified.`,
          )
        : filled;
    }
    case 'crc': {
      const crc = await crcOfFlash(flash, step.address, step.length, watch);
      return crc.ok ? ok(`CRC-32 of ${counted(step.length, 'byte')} from ${hex(step.address)}: ${crc.value}.`) : crc;
    }
    case 'read': {
      const read = await readFromFlash(flash, step.address, step.length, watch);
      if (!read.ok) return read;
      on.board.said.flashRead = { start: step.address, bytes: read.value, time: new Date().toISOString() };
      return ok(`${counted(step.length, 'byte')} read; they can be saved below.`);
    }
  }
}

/** What the flash was said to hold is forgotten before the first bit of it changes, and not where nothing does. */
function forgetting(on: Needs, watch: Watch): Watch {
  let done = false;
  const beforeChange = async () => {
    if (!done) await on.facts.set('kept', null);
    done = true;
  };
  return { ...watch, beforeChange };
}

const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;
