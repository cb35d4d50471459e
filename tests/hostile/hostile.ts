import { readFileSync } from 'node:fs';
import { type Chance, chanceFrom } from '../fuzz/index.ts';
import { Rig, until, wait } from '../torture/index.ts';
import { podConnection } from './pod-requests.ts';
import { type Answer, webRequest } from './web-requests.ts';

export interface Trouble {
  readonly kind: 'server error' | 'slow' | 'large' | 'let in' | 'ended' | 'memory' | 'stuck';
  readonly what: string;
}

/** Longer than anything takes that is refused, on a machine that has other things to do. */
const SLOW_MILLISECONDS = 5000;
const LARGE_BYTES = 20 << 20;
const MOST_MEGABYTES = 1500;
/** So often it is looked whether the rest still works. */
const LOOK_EVERY = 200;
const AT_A_TIME = 4;

/** A workbench and its pod under requests that nobody means well. */
export class Hostile {
  readonly #chance: Chance;
  readonly #seed: number;
  #rig: Rig | null = null;
  #procedures: readonly string[] = [];
  requests = 0;
  connections = 0;
  /** Answers by their status; 0 where there was none. */
  readonly answers = new Map<number, number>();
  mostMegabytes = { web: 0, pod: 0 };
  slowest = 0;

  constructor(seed: number, procedures: readonly string[]) {
    this.#seed = seed;
    this.#chance = chanceFrom(seed);
    this.#procedures = procedures;
  }

  /** So many requests, a tenth of them connections to the pod; then a look whether the rest still works. */
  async some(count = LOOK_EVERY): Promise<Trouble[]> {
    const rig = (this.#rig ??= await Rig.made(chanceFrom(this.#seed + 1)));
    const trouble: Trouble[] = [];
    let left = count;
    await Promise.all(
      Array.from({ length: AT_A_TIME }, async () => {
        while (left-- > 0) trouble.push(...(await this.#one(rig)));
      }),
    );
    return [...trouble, ...(await this.#stillWorks(rig))];
  }

  async close(): Promise<void> {
    await this.#rig?.close();
    this.#rig = null;
  }

  async #one(rig: Rig): Promise<Trouble[]> {
    if (this.#chance.oneIn(10)) {
      this.connections++;
      await podConnection(rig.ports.pod, rig.token, this.#chance);
      return [];
    }
    this.requests++;
    const answer = await webRequest(rig.ports.web, this.#procedures, this.#chance);
    this.answers.set(answer.status ?? 0, (this.answers.get(answer.status ?? 0) ?? 0) + 1);
    this.slowest = Math.max(this.slowest, answer.milliseconds);
    return troubleIn(answer);
  }

  async #stillWorks(rig: Rig): Promise<Trouble[]> {
    const pids = rig.pids;
    if (!pids.web || !pids.pod) return [{ kind: 'ended', what: `${pids.web ? 'The pod' : 'The workbench'} has ended` }];
    this.mostMegabytes = {
      web: Math.max(this.mostMegabytes.web, residentMegabytes(pids.web)),
      pod: Math.max(this.mostMegabytes.pod, residentMegabytes(pids.pod)),
    };
    const large = Object.entries(this.mostMegabytes).filter(([, megabytes]) => megabytes > MOST_MEGABYTES);
    if (large.length > 0) return [{ kind: 'memory', what: JSON.stringify(this.mostMegabytes) }];
    // Whatever was set to another pod or project by a call that is allowed, a person can set back.
    const works = await until(async () => {
      try {
        await rig.api.bench.usePod.mutate({ address: rig.podAddress, token: rig.token });
        if (!(await until(() => rig.told('pod')?.pod.state === 'connected', 8000))) return false;
        await rig.api.bench.setFault.mutate({ name: 'board-unpowered', on: false }).catch(() => {});
        const scan = await rig.did({ kind: 'scan' }, 20_000);
        return scan !== null;
      } catch {
        await wait(300);
        return false;
      }
    }, 60_000);
    return works ? [] : [{ kind: 'stuck', what: `No scan comes to an end; the pod is ${rig.told('pod')?.pod.state}` }];
  }
}

function troubleIn({ what, status, bytes, milliseconds, mayBe }: Answer): Trouble[] {
  if (status !== null && status >= 500 && status !== 501 && status !== 505)
    return [{ kind: 'server error', what: `${status}: ${what}` }];
  if (milliseconds > SLOW_MILLISECONDS && (status !== null || mayBe !== 'nothing'))
    return [{ kind: 'slow', what: `${Math.round(milliseconds)} ms: ${what}` }];
  if (bytes > LARGE_BYTES) return [{ kind: 'large', what: `${bytes} bytes: ${what}` }];
  if (mayBe === 'refused' && status !== null && status < 400) return [{ kind: 'let in', what: `${status}: ${what}` }];
  return [];
}

/** @source proc(5): VmRSS in kB; 0 where there is no such file. */
function residentMegabytes(pid: number): number {
  try {
    return Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024);
  } catch {
    return 0;
  }
}
