import { createHash } from 'node:crypto';
import { readBitstream, writeBitstream } from '../../core/families/index.ts';
import type { PodClient, StagedFile } from '../../core/pod/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, type Problem, ProblemError, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { LoadStep } from '../board/index.ts';
import { usableBuild } from '../project/index.ts';
import { checksNow } from './load.ts';
import type { Given } from './needs.ts';
import { carriedOut } from './pod-files.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'project' | 'changed'>;

/** What is sent, and what is known of it. */
interface Subject {
  readonly name: string;
  readonly bytes: Uint8Array;
  readonly part: string;
  readonly fingerprint: string;
}

/** Sends a file to the pod and lets the pod load it by itself; its log is fetched when it is done. */
export function stageAndRun(on: Needs, step: LoadStep): number {
  return on.jobs.start('cable', {
    kind: 'stage',
    title: 'Stage and run',
    board: on.board.name,
    work: async (watch, note) => {
      const subject = await subjectOf(on, step);
      if (!subject) return fail(problem('no-image (stageAndRun)'));
      note({ file: subject.name });
      const report = await reporting(on, step, subject);
      if (!report.ok) return report;
      report.value(null);
      const pod = on.board.hands();
      const file = await send(pod, subject, watch);
      const { device } = step;
      const ended = await on.board.handsOff((own) => carriedOut(own, { id: file, what: 'load', device }, watch));
      if (!ended.ok) return ended;
      await on.board.hands().dropStaged(file);
      await writeDown(on, step, subject, ended.value);
      report.value(ended.value.problem);
      return ended.value.problem
        ? fail(ended.value.problem)
        : ok(`The pod loaded ${subject.name} by itself. ${ended.value.log.at(-2) ?? ''}`);
    },
  }).id;
}

/** Shows the load under way or ended; fails where a check before the first bit forbids it. */
async function reporting(
  on: Needs,
  step: LoadStep,
  { name, fingerprint }: Subject,
): Promise<Result<(problem: Problem | null) => void>> {
  const checks = await checksNow(on, step);
  if (!checks.ok) return checks;
  const project = (await on.store.projects.current())?.id ?? null;
  const { device } = step;
  const source = `${name}, by the pod`;
  return ok((problem) => {
    const shown = { device, source, fingerprint, checks: checks.value, load: null, after: null, problem };
    on.board.said.loadReport = { time: new Date().toISOString(), project, steps: [shown] };
    on.changed();
  });
}

/** Sends the file; one that is cancelled on its way is dropped at the pod. */
async function send(pod: PodClient, { name, bytes }: Subject, watch: Watch): Promise<number> {
  const digest = createHash('sha256').update(bytes).digest('hex');
  return pod.stage({ name, size: bytes.length, sha256: digest, bytes: [bytes] }, (sent) => {
    watch.report({ phase: 'Sending', done: sent, total: bytes.length, unit: 'B' });
    if (watch.cancelled()) throw new ProblemError(problem('cancelled (send)'));
  });
}

async function writeDown(
  on: Needs,
  { device }: LoadStep,
  subject: Subject,
  { log, problem }: StagedFile,
): Promise<void> {
  const { name, part, fingerprint } = subject;
  on.board.said.stageLog = { name, log, time: new Date().toISOString() };
  await on.board.look();
  await on.store.files.addLoad({
    board: on.board.name,
    device: device ?? on.board.said.running?.device ?? -1,
    part,
    fingerprint,
    source: `${name}, by the pod`,
    outcome: problem ? 'failed' : 'done',
    verified: null,
  });
}

async function subjectOf(on: Needs, { source }: LoadStep): Promise<Subject | null> {
  if (source.kind === 'image') {
    const image = await on.store.files.image(source.id);
    const read = image ? readBitstream(image.bytes) : null;
    return image && read?.ok ? { ...image, part: read.value.part, fingerprint: read.value.fingerprint } : null;
  }
  const usable = await usableBuild(on);
  if (!usable.ok) return null;
  const { row, bitstream } = usable.value;
  const { part, fingerprint } = bitstream;
  return { name: `build ${row.id}`, bytes: writeBitstream(bitstream), part, fingerprint };
}
