// A thread for testbenches. One run in, its progress and what came of it out.
import { parameterNumbers } from '../../../core/build/index.ts';
import { allCells } from '../../../core/families/index.ts';
import { ProblemError } from '../../../core/result.ts';
import { simulate, untilText } from '../../../core/sim/events/index.ts';
import type { SimulationWork, TestbenchRun } from '../simulation-thread.ts';
import { answering } from './answering.ts';
import { problem } from './problems.ts';

const MOST_OUTPUT = 1 << 20;
const MOST_DUMP = 64 << 20;
const MOST_REPORTS = 1000;

const works: SimulationWork = {
  run: ({ files, testbench, parameters, plusargs, until }, watch): TestbenchRun => {
    const printed: string[] = [];
    const dumped: Uint8Array[] = [];
    const encoder = new TextEncoder();
    let [length, size] = [0, 0];
    const limit = until === null ? null : untilText(until);
    if (until !== null && limit === null) throw new ProblemError(problem('simulation-until', { until }));
    const data = new Map(files.map(({ name, text }) => [name, text]));
    const { run, messages } = simulate(
      files,
      {
        top: testbench,
        cells: allCells(),
        parameters: parameterNumbers(parameters),
        plusargs,
        until: limit,
        host: {
          read: (name) => data.get(name) ?? null,
          print: (text) => {
            length += text.length;
            if (length <= MOST_OUTPUT) printed.push(text);
          },
        },
        dump: {
          write: (text) => {
            if (size > MOST_DUMP) return;
            const bytes = encoder.encode(text);
            size += bytes.length;
            dumped.push(bytes);
          },
        },
        dumpAll: true,
      },
      watch,
    );
    if (!run) {
      const errors = messages.filter(({ severity }) => severity === 'error');
      const [first] = errors;
      throw new ProblemError(
        problem('simulation-not-understood', {
          count: errors.length,
          first: first ? `${first.file}, line ${first.line}: ${first.message}` : '',
        }),
      );
    }
    const { ending, told, time, ticks, precision, errors, events, reports } = run;
    return {
      ...{ ending, told, time, ticks, precision, errors, events, messages },
      reports: reports.slice(0, MOST_REPORTS),
      output: printed.join(''),
      cut: length > MOST_OUTPUT,
      files: [...run.files.keys()],
      dump: new Uint8Array(Buffer.concat(dumped)),
      dumpCut: size > MOST_DUMP,
    };
  },
};

export default answering(works);
