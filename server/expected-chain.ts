import { type ChainFile, type ChainRow, compareChains, readChainFile } from '../core/chain/index.ts';
import type { FoundDevice } from '../core/jtag/index.ts';
import type { Problem } from '../core/result.ts';

/** Name of the file that a project keeps its chain in; another one that ends so is taken too. */
export const CHAIN_FILE = 'board.chain.json';

export interface ExpectedChain {
  readonly file: string | null;
  readonly chain: ChainFile | null;
  /** Why the file cannot be read. */
  readonly problem: Problem | null;
  /** Laid beside what answered; null without either. */
  readonly rows: readonly ChainRow[] | null;
}

/** The chain a project's files expect, beside the last scan. */
export function expectedChain(files: readonly { readonly name: string; readonly text: string }[], devices: readonly FoundDevice[] | null): ExpectedChain {
  const file = files.find(({ name }) => name.endsWith('.chain.json'));
  if (!file) return { file: null, chain: null, problem: null, rows: null };
  const read = readChainFile(file.name, file.text);
  if (!read.ok) return { file: file.name, chain: null, problem: read.error, rows: null };
  return { file: file.name, chain: read.value, problem: null, rows: devices ? compareChains(read.value.devices, devices) : null };
}
