import { type ChainSession, isPowered, LEAST_VOLTS } from '../board/index.ts';
import { type ChainFile, compareChains, describeRow } from '../chain/index.ts';
import { devicesOf } from '../families/index.ts';
import { type CableState, climbChain, RUNG_QUESTIONS, type Rung, type RungName, ScanQueue } from '../jtag/index.ts';
import { type Problem, ProblemError } from '../result.ts';

const ORDER = Object.keys(RUNG_QUESTIONS) as RungName[];

/** Climbs the whole ladder, one measurement a rung; all rungs are there, those behind the first failure not reached. */
export async function diagnose(chain: ChainSession, expected: ChainFile | null = null): Promise<readonly Rung[]> {
  const rungs: Rung[] = [];
  const add = (name: RungName, ok: boolean, measured: string, ...tryNext: string[]) => {
    rungs.push({
      name,
      question: RUNG_QUESTIONS[name],
      state: ok ? 'pass' : 'fail',
      measured,
      tryNext: ok ? [] : tryNext,
    });
    return ok;
  };
  let state: CableState;
  try {
    state = await chain.cable.state();
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    add('pod', false, error.problem.message, ...error.problem.tryNext);
    return whole(rungs);
  }
  if (state.trouble) {
    add('pod', false, state.trouble.message, ...state.trouble.tryNext);
    return whole(rungs);
  }
  add('pod', true, `It answers; TCK stands at ${state.tckHz / 1e6} MHz.`);
  if (
    !add(
      'cable',
      state.attached,
      state.attached ? 'The pod feels a plug.' : 'The pod feels no plug.',
      'Plug the cable into the board’s JTAG connector.',
      'Check that the plug is fully in and the right way round.',
    )
  )
    return whole(rungs);
  const volts = state.referenceVolts;
  const advice =
    volts !== null && volts < 0.5
      ? [
          'Switch the board on.',
          'Check the supply lead and the fuse.',
          'Check that the reference pin of the connector is wired.',
        ]
      : ['Measure the supply of the JTAG bank on the board.', 'Check the resistor or fuse in the reference wire.'];
  if (
    !add(
      'reference',
      isPowered(state) !== false,
      volts === null
        ? 'Not measured: this pod has no wire for it.'
        : `${volts.toFixed(2)} V; at least ${LEAST_VOLTS} V are needed.`,
      ...advice,
    )
  )
    return whole(rungs);
  rungs.push(
    ...(await climbChain(new ScanQueue(chain.cable), [...devicesOf(chain.families), ...chain.memory.described])),
  );
  if (rungs.some((rung) => rung.state === 'fail')) return whole(rungs);
  if (!expected) add('expected', true, 'No expected chain is stored with the project; what answers is not compared.');
  else {
    const { devices } = await chain.rescan();
    const wrong = compareChains(expected.devices, devices).filter((row) => row.kind !== 'same');
    const told = wrong.map((row) => describeRow(row, expected.devices, devices));
    add(
      'expected',
      wrong.length === 0,
      wrong.length === 0 ? `All ${devices.length} as expected.` : `${told.join('. ')}.`,
      'Check that this is the right board.',
      'Check that the missing device is fitted, powered, and that its bridge is open.',
      'If the board is meant to be like this, accept what answers as the expected chain.',
    );
  }
  return whole(rungs);
}

/** A ladder of which only this much is known: the pod does not answer. */
export const withoutPod = (found: Problem): readonly Rung[] =>
  whole([
    { name: 'pod', question: RUNG_QUESTIONS.pod, state: 'fail', measured: found.message, tryNext: found.tryNext },
  ]);

const whole = (rungs: readonly Rung[]): readonly Rung[] =>
  ORDER.map(
    (name) =>
      rungs.find((rung) => rung.name === name) ?? {
        name,
        question: RUNG_QUESTIONS[name],
        state: 'not-reached',
        measured: '',
        tryNext: [],
      },
  );
