import { type ChainFile, type ChainRow, compareChains, readChainFile } from '../../core/chain/index.ts';
import type { FoundDevice } from '../../core/jtag/index.ts';
import type { Problem } from '../../core/result.ts';

export interface ExpectedChain {
  /** Where it comes from: what was accepted on this board, else a file of the project. */
  readonly from: 'board' | 'project' | null;
  readonly file: string | null;
  readonly chain: ChainFile | null;
  /** Why the file cannot be read. */
  readonly problem: Problem | null;
  /** Laid beside what answered; null without either. */
  readonly rows: readonly ChainRow[] | null;
}

/**
 * The chain that is expected on a board, beside the last scan: what was accepted there, else what the project's files
 * expect of any board.
 */
export function expectedChain(
  accepted: string | null,
  files: readonly { readonly name: string; readonly text: string }[],
  devices: readonly FoundDevice[] | null,
): ExpectedChain {
  const named = files.find(({ name }) => name.endsWith('.chain.json'));
  const from = accepted !== null ? 'board' : named ? 'project' : null;
  const [name, text] = accepted !== null ? [null, accepted] : [named?.name ?? null, named?.text ?? null];
  if (from === null || text === null) return { from, file: null, chain: null, problem: null, rows: null };
  const read = readChainFile(name ?? 'the chain accepted on this board', text);
  if (!read.ok) return { from, file: name, chain: null, problem: read.error, rows: null };
  return {
    from,
    file: name,
    chain: read.value,
    problem: null,
    rows: devices ? compareChains(read.value.devices, devices) : null,
  };
}
