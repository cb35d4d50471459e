import type { Problem } from '../result.ts';

/** A file that lies at the pod and can be executed there. `log` is the pod's own, with its time. */
export interface StagedFile {
  readonly id: number;
  readonly name: string;
  readonly bytes: number;
  readonly sha256: string;
  readonly state: 'arriving' | 'ready' | 'running' | 'done' | 'failed';
  readonly log: readonly string[];
  readonly problem: Problem | null;
}
