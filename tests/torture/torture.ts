import Database from 'better-sqlite3';
import { join } from 'node:path';
import { type Chance, chanceFrom } from '../fuzz/index.ts';
import { PROBED } from '../support/plans.ts';
import { DISRUPTIONS } from './disruptions.ts';
import { FIRST_SERIAL, Ledger } from './ledger.ts';
import { LAYOUT, OPERATIONS } from './operations.ts';
import { Rig, until, wait } from './rig.ts';

/** One operation that was disturbed once, and what came of it. */
export interface Round {
  readonly number: number;
  readonly operation: string;
  readonly disruption: string;
  /** From the start of the work to the disruption. */
  readonly after: number;
  /** From the mending to a chain that scans. */
  readonly recovery: number;
  /** What is not as it has to be; empty where all is well. */
  readonly fallen: readonly Fallen[];
}

export interface Fallen {
  readonly kind: 'missing' | 'wedged' | 'database' | 'flash' | 'silent';
  readonly what: string;
}

/** So long it may take until everything works again. */
const RECOVERY_MILLISECONDS = 90_000;
/** So long disturbed work may go on before it has come to some end. */
const END_MILLISECONDS = 150_000;
const FLASH_EVERY = 10;

/** A workbench with a design that is built, loaded and kept, tortured round by round. */
export class Torture {
  readonly #seed: number;
  readonly #only: { readonly operation?: string; readonly disruption?: string };
  readonly #chance: Chance;
  #rig: Rig | null = null;
  #ledger: Ledger | null = null;
  #number = 0;
  #project = 0;
  /** Over all workbenches there were. */
  #before = { kills: 0, acknowledged: 0 };

  constructor(seed: number, only: { readonly operation?: string; readonly disruption?: string } = {}) {
    this.#seed = seed;
    this.#only = only;
    this.#chance = chanceFrom(seed);
  }

  get kills(): number {
    return this.#before.kills + (this.#rig?.kills ?? 0);
  }

  get acknowledged(): number {
    return this.#before.acknowledged + (this.#ledger?.acknowledged ?? 0);
  }

  async round(): Promise<Round> {
    const rig = (this.#rig ??= await this.#prepared());
    const ledger = (this.#ledger ??= new Ledger(rig.api));
    const number = ++this.#number;
    const chance = this.#chance;
    const operation = chance.pick(named(OPERATIONS, this.#only.operation));
    const disruption = chance.pick(named(DISRUPTIONS, this.#only.disruption));
    const after = chance.below(operation.milliseconds);
    const fallen: Fallen[] = [];
    if (operation.name === 'writing') await this.#written(rig, ledger);
    let isOver = false;
    // What goes on fails once it is disturbed: that is what is wanted. That nothing is lost by it is seen below.
    const work = operation.run({ rig, ledger, chance, isOver: () => isOver }).catch(() => {});
    await wait(after);
    await disruption.strike(rig, chance).catch(() => {});
    await wait(disruption.milliseconds);
    isOver = true;
    rig.wire.clear();
    fallen.push(...this.#database(rig, disruption.name));
    await rig.start();
    const since = Date.now();
    const isEnded = await Promise.race([work.then(() => true), wait(END_MILLISECONDS).then(() => false)]);
    if (!isEnded) fallen.push({ kind: 'silent', what: `${operation.name} has not come to any end` });
    fallen.push(...(await this.#recovered(rig)));
    const recovery = Date.now() - since;
    if (!fallen.some(({ kind }) => kind === 'wedged')) {
      fallen.push(...(await ledger.missing()).map((what) => ({ kind: 'missing' as const, what })));
      const isWritten = operation.name === 'writing';
      if (isWritten || number % FLASH_EVERY === 0) fallen.push(...(await this.#flash(rig, isWritten ? ledger : null)));
    }
    // What fell is known; the next round is about something else.
    if (fallen.some(({ kind }) => kind !== 'missing')) await this.close();
    return { number, operation: operation.name, disruption: disruption.name, after, recovery, fallen };
  }

  async close(): Promise<void> {
    this.#before = { kills: this.kills, acknowledged: this.acknowledged };
    await this.#rig?.close();
    this.#rig = null;
    this.#ledger = null;
  }

  async #prepared(): Promise<Rig> {
    const rig = await Rig.made(chanceFrom(this.#seed + 1));
    this.#rig = rig;
    const must = async (order: Parameters<Rig['did']>[0]) => {
      const ended = await rig.did(order, 180_000);
      if (ended?.state !== 'done') throw new Error(`Prepared: ${order.kind}: ${ended?.message ?? 'no end'}`);
    };
    await rig.api.probe.saveShelf.mutate([{ name: 'plan', inBuild: true, plan: PROBED }]);
    if (!(await until(() => rig.told('pod')?.pod.state === 'connected', 20_000)))
      throw new Error('Prepared: the pod does not answer.');
    await must({ kind: 'scan' });
    await must({ kind: 'build' });
    await must({ kind: 'load' });
    const values = { serial: FIRST_SERIAL };
    await rig.api.keep.choose.mutate({ layout: LAYOUT, replaceGolden: true, values });
    this.#project = (await rig.api.project.list.query()).current ?? 0;
    await must({ kind: 'keep', boot: true });
    return rig;
  }

  /** While nobody has it open: whether the file is whole. */
  #database(rig: Rig, disruption: string): Fallen[] {
    if (!/web|both/.test(disruption)) return [];
    const file = new Database(join(rig.home, 'nimble.sqlite'));
    try {
      const found = [
        ...(file.pragma('integrity_check') as object[]),
        ...(file.pragma('foreign_key_check') as object[]),
      ];
      const told = JSON.stringify(found);
      return told === '[{"integrity_check":"ok"}]' ? [] : [{ kind: 'database', what: told.slice(0, 300) }];
    } finally {
      file.close();
    }
  }

  /** Everything answers again: the workbench, its pod, the chain, and the design that was loaded or kept. */
  async #recovered(rig: Rig): Promise<Fallen[]> {
    const wedged = (what: string): Fallen[] => [{ kind: 'wedged', what: `${what} after ${RECOVERY_MILLISECONDS} ms` }];
    const end = Date.now() + RECOVERY_MILLISECONDS;
    const isConnected = await until(() => rig.told('pod')?.pod.state === 'connected', end - Date.now());
    if (!isConnected) return wedged(`The pod is "${rig.told('pod')?.pod.state}"`);
    let told = '';
    const scanned = await until(async () => {
      try {
        const job = await rig.did({ kind: 'scan' }, end - Date.now());
        told = job?.message ?? 'no end';
        return job?.state === 'done';
      } catch (error) {
        told = String(error);
        return false;
      }
    }, end - Date.now());
    if (!scanned) return wedged(`No scan works (${told})`);
    for (const armed of rig.told('jobs')?.jobs ?? [])
      if (armed.kind === 'capture' && armed.endedAt === null) {
        await rig.api.jobs.cancel.mutate({ id: armed.id }).catch(() => {});
        if (!(await rig.ended(armed.id, 10_000))) return wedged('A capture cannot be cancelled');
      }
    // Work that brings projects may have ended in one of them.
    await rig.api.project.open.mutate({ id: this.#project });
    return this.#loadedAgain(rig, wedged);
  }

  async #loadedAgain(rig: Rig, wedged: (what: string) => Fallen[]): Promise<Fallen[]> {
    const job = await rig.did({ kind: 'load' }, RECOVERY_MILLISECONDS);
    return job?.state === 'done' ? [] : wedged(`No load works (${job?.message ?? 'no end'})`);
  }

  /** The flash holds the newest build and a known serial number, before that is disturbed. */
  async #written(rig: Rig, ledger: Ledger): Promise<void> {
    const serial = `B${Date.now() % 1e9}`;
    await rig.api.keep.choose.mutate({ layout: LAYOUT, replaceGolden: true, values: { serial } });
    const ended = await rig.did({ kind: 'keep', boot: false }, 120_000);
    if (ended?.state !== 'done') throw new Error(`Nothing was disturbed yet: ${ended?.message ?? 'no end'}`);
    Object.assign(ledger.flash, { written: serial, sent: null });
  }

  /** The board boots by itself, from the update or from golden, whenever the supply went; and a broken write is told. */
  async #flash(rig: Rig, ledger: Ledger | null): Promise<Fallen[]> {
    for (const on of [false, true]) {
      const power = await rig.did({ kind: 'power', on }, 20_000);
      if (power?.state !== 'done') return [{ kind: 'wedged', what: `Power ${on}: ${power?.message ?? 'no end'}` }];
    }
    const boots = await until(() => rig.told('running')?.running?.fingerprint, 10_000);
    if (!boots) return [{ kind: 'flash', what: 'The board does not boot from its flash' }];
    if (!ledger) return [];
    if (rig.told('flash')?.brokenWrite) return this.#finishWrite(rig, ledger);
    // Nothing says that it was broken off: then it holds what was written last, or what came whole after that.
    const { written, sent } = ledger.flash;
    let told = '';
    for (const serial of sent === null ? [written] : [written, sent]) {
      await rig.api.keep.choose.mutate({ layout: LAYOUT, values: { serial } });
      const verify = await rig.did({ kind: 'flash-step', step: { what: 'verify' } }, 60_000);
      if (verify?.state === 'done') {
        Object.assign(ledger.flash, { written: serial, sent: null });
        return [];
      }
      told = verify?.message ?? 'no end';
    }
    return [{ kind: 'flash', what: `Nothing says that the write was broken off: ${told}` }];
  }

  /** What was broken off is finished by writing again. */
  async #finishWrite(rig: Rig, ledger: Ledger): Promise<Fallen[]> {
    const serial = ledger.flash.sent ?? ledger.flash.written;
    await rig.api.keep.choose.mutate({ layout: LAYOUT, values: { serial } });
    const again = await rig.did({ kind: 'keep', boot: false }, 120_000);
    Object.assign(ledger.flash, { written: serial, sent: null });
    return again?.state === 'done' && (await until(() => rig.told('flash')?.brokenWrite === null, 2000))
      ? []
      : [{ kind: 'flash', what: `A write that was broken off cannot be finished: ${again?.message ?? 'no end'}` }];
  }
}

function named<T extends { readonly name: string }>(all: readonly T[], name: string | undefined): readonly T[] {
  const found = name === undefined ? all : all.filter((one) => one.name.startsWith(name));
  if (found.length === 0) throw new Error(`There is no "${name}".`);
  return found;
}
