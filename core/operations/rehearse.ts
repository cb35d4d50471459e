import { type ChainSession, isPowered } from '../board/index.ts';
import { type ConfigStatus, type Fpga, readAgainLater, readNow } from '../families/index.ts';
import { bigIntOf, constantBits } from '../bits/index.ts';
import { type CableState, type ChainLink, ScanQueue } from '../jtag/index.ts';
import { last } from '../lists.ts';
import { stopIfCancelled, type Watch } from '../progress.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';

/**
 * How the board is made to boot: without supply for a moment, or by the reconfigure wire, which leaves everything else
 * running.
 */
export type RehearsalKind = 'power' | 'reconfigure';

/** What a boot proved. */
export interface Rehearsal {
  readonly by: RehearsalKind;
  readonly done: boolean;
  /**
   * From the supply or the wire to DONE as the status register shows it, counted in TCK cycles and pauses; about 2 ms
   * coarse.
   */
  readonly bootMilliseconds: number;
  readonly fingerprint: string | null;
  readonly status: ConfigStatus;
}

const OFF_MICROSECONDS = 50_000;
const SETTLE_MICROSECONDS = 10_000;
/** The supply is off below this reference voltage. */
const OFF_VOLTS = 0.5;
/** How often a person's switch is looked for, and how long. */
const ASK_MICROSECONDS = 200_000;
const PATIENCE_MICROSECONDS = 120_000_000;
const STEP_MICROSECONDS = 2000;
/** Looks that go to the pod together, so that the way there and back does not stretch the time. */
const LOOKS = 100;
const LONGEST_MICROSECONDS = 3_000_000;

/**
 * Lets the board boot, waits for DONE and asks what came up. The chain is looked at before, so that nothing delays the
 * first look.
 */
export async function rehearseBoot(
  chain: ChainSession,
  part: string,
  device: number | null,
  watch: Watch,
  by: RehearsalKind = 'power',
): Promise<Result<Rehearsal>> {
  const supplied = await withSupply(chain, watch);
  if (!supplied.ok) return supplied;
  const known = chain.part(part);
  if (!known.ok) return known;
  const { family } = known.value;
  const found = await chain.link(part, device);
  if (!found.ok) return found;
  const link = found.value;
  const begun = await (by === 'power' ? powerCycle(chain, watch) : pullWire(chain, watch));
  if (!begun.ok) return begun;
  const { tckHz } = await chain.cable.state();
  const start = link.queue.counts.tckCycles;
  link.queue.reset();
  let waited = 0;
  for (;;) {
    const looks = await lookOften(link, family);
    for (const { status, cycles } of looks) {
      waited += STEP_MICROSECONDS;
      if (!status.done) continue;
      const microseconds = waited + ((cycles - start) * 1e6) / tckHz;
      return ok({
        by,
        done: true,
        bootMilliseconds: Math.round(microseconds / 1000),
        fingerprint: await readNow(link, family.print),
        status,
      });
    }
    const { status } = last(looks);
    if (status.checked && !status.fellBack && (status.crcError || status.idcodeMismatch))
      return fail(problem('boot-failed'));
    if (waited >= LONGEST_MICROSECONDS || status.bootSource === 'jtag')
      return ok({ by, done: false, bootMilliseconds: Math.round(waited / 1000), fingerprint: null, status });
    watch.report({ phase: 'Waiting for DONE', done: waited / 1000, total: LONGEST_MICROSECONDS / 1000, unit: 'ms' });
  }
}

async function withSupply(chain: ChainSession, watch: Watch): Promise<Result<null>> {
  const state = await chain.cable.state();
  if (!state.attached || (await hasSupply(chain, state))) return ok(null);
  return switchPower(chain, true, watch);
}

const hasSupply = async (chain: ChainSession, state: CableState): Promise<boolean> =>
  isPowered(state) ?? (await answers(chain));

const isSwitched = (state: CableState, on: boolean): boolean =>
  on ? isPowered(state) === true : (state.referenceVolts ?? 0) < OFF_VOLTS;

/**
 * Whether anything drives TDO: after Test-Logic-Reset an identity or a bypass bit comes out, never the same level for
 * so long (IEEE 1149.1, device identification register).
 */
async function answers(chain: ChainSession): Promise<boolean> {
  const queue = new ScanQueue(chain.cable);
  queue.reset();
  const read = queue.drCapture(constantBits(ANSWER_BITS, 1));
  await queue.flush();
  const bits = bigIntOf(await read);
  return bits !== 0n && bits !== (1n << BigInt(ANSWER_BITS)) - 1n;
}

const ANSWER_BITS = 32;

async function powerCycle(chain: ChainSession, watch: Watch): Promise<Result<null>> {
  watch.report({ phase: 'Power-cycling', done: 0, total: LONGEST_MICROSECONDS / 1000, unit: 'ms' });
  const off = await switchPower(chain, false, watch);
  if (!off.ok) return off;
  await chain.cable.run([{ kind: 'wait', microseconds: OFF_MICROSECONDS }]);
  return switchPower(chain, true, watch);
}

/**
 * Switches the supply, or asks the person at the desk to, where the pod has no relay: what is waited for is the
 * reference voltage, or where that is not measured that the chain answers, so nothing has to be confirmed.
 */
async function switchPower(chain: ChainSession, on: boolean, watch: Watch): Promise<Result<null>> {
  if (chain.hands.power) {
    await chain.hands.power(on);
    if (on) await chain.cable.run([{ kind: 'wait', microseconds: SETTLE_MICROSECONDS }]);
    return ok(null);
  }
  for (let waited = 0; waited < PATIENCE_MICROSECONDS; waited += ASK_MICROSECONDS) {
    const state = await chain.cable.state();
    if (state.referenceVolts === null ? (await answers(chain)) === on : isSwitched(state, on)) return ok(null);
    watch.report({
      phase: on ? 'Switch the board on' : 'Switch the board off',
      done: Math.round(waited / 1e6),
      total: PATIENCE_MICROSECONDS / 1e6,
      unit: 's',
    });
    stopIfCancelled(watch, 'The board was not switched.');
    await chain.cable.run([{ kind: 'wait', microseconds: ASK_MICROSECONDS }]);
  }
  return fail(
    problem('not-switched', { onText: on ? 'on' : 'off', patienceMicroseconds: PATIENCE_MICROSECONDS / 60e6 }),
  );
}

async function pullWire(chain: ChainSession, watch: Watch): Promise<Result<null>> {
  if (!chain.hands.reconfigure) return fail(problem('no-reconfigure'));
  watch.report({ phase: 'Reconfiguring', done: 0, total: LONGEST_MICROSECONDS / 1000, unit: 'ms' });
  await chain.hands.reconfigure();
  return ok(null);
}

interface Look {
  readonly status: ConfigStatus;
  readonly cycles: number;
}

/** The status register several times, with pauses between, in one batch. */
async function lookOften(link: ChainLink, { status }: Fpga): Promise<Look[]> {
  const looks: Promise<Look>[] = [];
  link.select(status.opcode);
  for (let i = 0; i < LOOKS; i++) {
    link.queue.wait(STEP_MICROSECONDS);
    const answer = readAgainLater(link, status);
    const cycles = link.queue.counts.tckCycles;
    looks.push(answer.then((now) => ({ status: now, cycles })));
  }
  await link.queue.flush();
  return Promise.all(looks);
}
