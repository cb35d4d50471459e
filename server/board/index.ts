// The board in front of the server: its cable, who uses it, and every statement that was made about it, each by whose
// it is. Knows no jobs and no page.
export { Board } from './board.ts';
export { bytesOf, placesOf, summaryOfComparison } from './comparison.ts';
export { DEFAULT_PLAN } from './statements.ts';
export { type ExpectedChain, expectedChain } from './expected-chain.ts';
export type {
  BlockSummary,
  Comparison,
  FlashLook,
  LoadPlan,
  LoadReport,
  LoadStep,
  PinSession,
  RehearsalReport,
  Running,
} from './statements.ts';
