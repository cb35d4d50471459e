// A thread that builds: one message in, progress and a result out.
import { parentPort } from 'node:worker_threads';
import { build, type BuildInputs } from '../../core/build/index.ts';
import { ProblemError } from '../../core/result.ts';

parentPort?.on('message', (inputs: BuildInputs) => {
  try {
    const result = build(inputs, { cancelled: () => false, report: (progress) => parentPort?.postMessage({ progress }) });
    parentPort?.postMessage({ result });
  } catch (error) {
    if (error instanceof ProblemError) parentPort?.postMessage({ problem: error.problem });
    else throw error;
  }
});
