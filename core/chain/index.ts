// The chain a project expects: its file, and the comparison with what answers. Scans nothing.
export { chainOf, type ChainFile, type ExpectedDevice, readChainFile, writeChainFile } from './file.ts';
export { type ChainRow, compareChains, describeRow } from './compare.ts';
