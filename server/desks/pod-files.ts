// What the pod holds: sent from here, carried out there, whether this server is there meanwhile or not.
import { createHash } from 'node:crypto';
import type { PodClient, StagedFile } from '../../core/pod/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, ProblemError, type Result } from '../../core/result.ts';
import { writeBitstream } from '../../core/families/index.ts';
import { usableBuild } from '../project/index.ts';
import type { Given } from './needs.ts';
import { problem } from './problems.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'project' | 'svf' | 'changed'>;

/** Something here that may be sent. */
export type PodFileSource =
  | { readonly kind: 'build' }
  | { readonly kind: 'image'; readonly id: number }
  | { readonly kind: 'svf'; readonly id: number };

interface Subject {
  readonly name: string;
  readonly size: number;
  readonly bytes: () => Iterable<Uint8Array> | AsyncIterable<Uint8Array>;
}

const LOOK_MILLISECONDS = 300;
/** Lines of an ordinary log; a longer one stretches the bar. */
const LOG_LINES = 14;

/** A bitstream of ours is loaded, everything else is played as SVF: its reader says where it is none. */
const kindOf = (name: string): 'load' | 'svf' => (/\.nbits$/i.test(name) ? 'load' : 'svf');

/** What lies at the pod in use. */
export async function podFilesNow(on: Needs): Promise<readonly (StagedFile & { readonly kind: 'load' | 'svf' })[]> {
  const files = await on.board.hands().staged();
  return files.map((file) => ({ ...file, kind: kindOf(file.name) }));
}

/** Sends a file; the same one is not sent twice. */
export function sendToPod(on: Needs, source: PodFileSource): number {
  return on.jobs.start('cable', {
    kind: 'pod-send',
    title: 'Send to the pod',
    board: on.board.name,
    work: async (watch, note) => {
      const subject = await subjectOf(on, source);
      if (!subject.ok) return subject;
      const { name, size, bytes } = subject.value;
      note({ file: name });
      const pod = on.board.hands();
      const digest = createHash('sha256');
      for await (const piece of bytes()) digest.update(piece);
      const sha256 = digest.digest('hex');
      const known = (await pod.staged()).find((one) => one.sha256 === sha256 && one.name === name);
      if (known && known.state !== 'arriving') return ok(`The pod has ${name} already.`);
      await pod.stage({ name, size, sha256, bytes: bytes() }, (sent) => {
        watch.report({ phase: 'Sending', done: sent, total: size, unit: 'B' });
        if (watch.cancelled()) throw new ProblemError(problem('cancelled (send)'));
      });
      return ok(`${name} lies at the pod, ${size.toLocaleString('en')} B, SHA-256 ${sha256.slice(0, 12)}.`);
    },
  }).id;
}

/** Has the pod carry a file out and stays with it; without this server it goes on. A cancel is asked of the pod. */
export function runAtPod(on: Needs, file: number, device: number | null): number {
  return on.jobs.start('cable', {
    kind: 'pod-run',
    title: 'Run at the pod',
    board: on.board.name,
    work: async (watch, note) => {
      const held = (await on.board.hands().staged()).find(({ id }) => id === file);
      if (!held) return fail(problem('stage-gone'));
      note({ file: held.name });
      const ended = await on.board.handsOff((pod) =>
        carriedOut(pod, { id: file, what: kindOf(held.name), device }, watch),
      );
      if (!ended.ok) return ended;
      // What it did to the board is seen at the board.
      await on.board.look();
      const { name, log, problem: trouble } = ended.value;
      const { running, scan } = on.board.said;
      const place = device ?? running?.device ?? -1;
      if (kindOf(name) === 'load')
        await on.store.files.addLoad({
          board: on.board.name,
          device: place,
          part: scan?.devices[place]?.part ?? '',
          // Of one that failed nobody here knows which it was: what runs may be another.
          fingerprint: (!trouble && running?.fingerprint) || '',
          source: `${name}, by the pod`,
          outcome: trouble ? 'failed' : 'done',
          verified: null,
        });
      return trouble ? fail(trouble) : ok(`The pod carried ${name} out. ${log.at(-2) ?? ''}`);
    },
  }).id;
}

/** Lets the pod carry a file out, and stays with it to its end; a cancel is asked of the pod, which stops where it can. */
export async function carriedOut(
  pod: PodClient,
  { id, what, device }: { readonly id: number; readonly what: 'load' | 'svf'; readonly device: number | null },
  watch: Watch,
): Promise<Result<StagedFile>> {
  await pod.execute(id, what, device);
  let isAsked = false;
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, LOOK_MILLISECONDS));
    const now = (await pod.staged()).find((one) => one.id === id);
    if (!now) return fail(problem('stage-gone'));
    const total = Math.max(LOG_LINES, now.log.length);
    watch.report({ phase: isAsked ? 'Stopping' : 'Running at the pod', done: now.log.length, total, unit: 'line' });
    if (now.state !== 'running' && now.state !== 'ready') return ok(now);
    // Where it has ended meanwhile, there is nothing to stop.
    if (watch.cancelled() && !isAsked) await pod.stopStaged(id).catch(() => {});
    isAsked ||= watch.cancelled();
  }
}

async function subjectOf(on: Needs, source: PodFileSource): Promise<Result<Subject>> {
  const inMemory = (name: string, bytes: Uint8Array): Result<Subject> =>
    ok({ name, size: bytes.length, bytes: () => [bytes] });
  switch (source.kind) {
    case 'build': {
      const usable = await usableBuild(on);
      if (!usable.ok) return usable;
      const { row, bitstream } = usable.value;
      return inMemory(`build-${row.id}.nbits`, writeBitstream(bitstream));
    }
    case 'image': {
      const image = await on.store.files.image(source.id);
      return image ? inMemory(image.name, image.bytes) : fail(problem('no-image (subjectOf)'));
    }
    case 'svf': {
      const file = await on.svf.file(source.id);
      if (!file || !on.svf.read(file.id)) return fail(problem('no-file'));
      return ok({ name: file.name, size: file.bytes, bytes: () => on.svf.read(file.id) ?? [] });
    }
  }
}
