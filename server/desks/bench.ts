import { BoundaryScan, type InterconnectFault, testInterconnect } from '../../core/boundary/index.ts';
import { checkIntegrity, diagnose as climb, sweepTck, withoutPod } from '../../core/operations/index.ts';
import { ScanQueue } from '../../core/jtag/index.ts';
import { fail, ok, ProblemError, type Result, problem as plainProblem } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'project' | 'changed'>;

const INTEGRITY_BITS = 100_000;

/** Climbs the ladder; what it finds is the answer, not a failure of the job, unless a rung failed. */
export function diagnose(on: Needs): number {
  return on.jobs.start('cable', {
    kind: 'diagnose',
    title: 'Diagnosis',
    board: on.board.name,
    work: async () => climbNow(on),
  }).id;
}

/** The ladder without a job of its own, after something else failed. */
export async function climbNow(on: Needs): Promise<Result<string>> {
  const { chain: expected } = await on.project.expectedChain();
  try {
    const rungs = await on.board.cable((chain) => climb(chain, expected));
    on.board.said.ladder = { rungs, time: new Date().toISOString() };
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    on.board.said.ladder = { rungs: withoutPod(error.problem), time: new Date().toISOString() };
  }
  on.changed();
  const failed = on.board.said.ladder.rungs.find((rung) => rung.state === 'fail');
  return failed
    ? fail(plainProblem(`rung-${failed.name}`, `"${failed.question}" fails. ${failed.measured}`, ...failed.tryNext))
    : ok(`All ${on.board.said.ladder.rungs.length} rungs hold.`);
}

export function sweep(on: Needs): number {
  return on.jobs.start('cable', {
    kind: 'sweep',
    title: 'TCK sweep',
    board: on.board.name,
    work: async (watch) => {
      const done = await on.board.cable((chain) => sweepTck(chain, watch));
      if (!done.ok) return done;
      on.board.said.sweep = { ...done.value, time: new Date().toISOString() };
      const { reliableHz, chosenHz } = done.value;
      return reliableHz === null || chosenHz === null
        ? fail(problem('sweep'))
        : ok(`Reliable up to ${reliableHz / 1e6} MHz; TCK is set to ${chosenHz / 1e6} MHz.`);
    },
  }).id;
}

export function integrity(on: Needs): number {
  return on.jobs.start('cable', {
    kind: 'integrity',
    title: 'Bypass test',
    board: on.board.name,
    work: async () => {
      const tested = await on.board.cable((chain) => checkIntegrity(chain, INTEGRITY_BITS));
      if (!tested.ok) return tested;
      on.board.said.integrity = { ...tested.value, time: new Date().toISOString() };
      const { bits, errors, hz, firstError } = tested.value;
      const told = `${bits.toLocaleString('en')} bits at ${hz / 1e6} MHz`;
      return errors === 0
        ? ok(`${told}: no error.`)
        : fail(problem('bit-errors', { errors: errors.toLocaleString('en'), told, firstError }));
    },
  }).id;
}

/** Tests the wiring between devices. Takes all their pins over meanwhile. */
export function interconnect(on: Needs): number {
  return on.jobs.start('cable', {
    kind: 'interconnect',
    title: 'Interconnect test',
    board: on.board.name,
    work: async (watch, note) => {
      const nets = await on.project.boardNets();
      if (nets.length === 0) return fail(problem('no-nets'));
      note({ nets: String(nets.length) });
      const result = await on.board.cable(async (chain) => {
        const devices = await on.board.scannedChain(chain);
        if (!devices.ok) return devices;
        const scan = new BoundaryScan(new ScanQueue(chain.cable), devices.value);
        return ok(
          await testInterconnect(scan, nets, (done, total) => {
            watch.report({ phase: 'Testing', done, total, unit: 'vector' });
            if (watch.cancelled()) throw new ProblemError(problem('cancelled'));
          }),
        );
      });
      if (!result.ok) return result;
      on.board.said.interconnect = { ...result.value, time: new Date().toISOString() };
      const { faults, tested, vectors } = result.value;
      const [first] = faults;
      return first
        ? fail(
            problem('interconnect', {
              faultsCount: faults.length,
              faultsCountText: faults.length === 1 ? 'fault' : 'faults',
              testedCount: tested.length,
              first: describeFault(first),
            }),
          )
        : ok(`${tested.length} nets, ${vectors} vectors: no fault.`);
    },
  }).id;
}

function describeFault(fault: InterconnectFault): string {
  switch (fault.kind) {
    case 'short':
      return `${fault.nets.join(' and ')} are shorted (${fault.as}).`;
    case 'stuck':
      return `${fault.net} is stuck at ${fault.level}.`;
    case 'open':
      return `${fault.net} is open at ${fault.pins.join(' or ')}.`;
    case 'other':
      return `${fault.net} reads ${fault.actual} instead of ${fault.expected}.`;
  }
}
