import { createHash } from 'node:crypto';
import { fail, ok, type Problem, problem, ProblemError } from '../../core/result.ts';
import type { Given } from './needs.ts';
import { usableBuild } from '../project/index.ts';
import { readBitstream, writeBitstream } from '../../core/families/index.ts';
import type { LoadStep } from '../board/index.ts';
import { checksNow } from './load.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'project' | 'changed'>;

const LOOK_MILLISECONDS = 300;

/** Sends a file to the pod and lets the pod load it by itself; its log is fetched when it is done. */
export function stageAndRun(on: Needs, step: LoadStep): number {
  return on.jobs.start('cable', {
    kind: 'stage',
    title: 'Stage and run',
    board: on.board.name,
    work: async (watch, note) => {
      const subject = await bytesOf(on, step);
      if (!subject)
        return fail(problem('no-image', 'There is no such file or build.', 'Build, or choose the file again.'));
      note({ file: subject.name });
      const checks = await checksNow(on, step);
      if (!checks.ok) return checks;
      const report = (problem: Problem | null) => {
        on.board.said.loadReport = {
          time: new Date().toISOString(),
          project,
          steps: [
            {
              device: step.device,
              source: `${subject.name}, by the pod`,
              fingerprint: subject.fingerprint,
              checks: checks.value,
              load: null,
              after: null,
              problem,
            },
          ],
        };
        on.changed();
      };
      const project = (await on.store.projects.current())?.id ?? null;
      report(null);
      const pod = on.board.hands();
      const digest = createHash('sha256').update(subject.bytes).digest('hex');
      const file = await pod.stage(subject.name, subject.bytes, digest, (sent) => {
        watch.report({ phase: 'Sending', done: sent, total: subject.bytes.length, unit: 'B' });
        if (watch.cancelled())
          throw new ProblemError(
            problem(
              'cancelled',
              'Cancelled. The pod holds part of the file; nothing was run.',
              'Start it again when ready.',
            ),
          );
      });
      await pod.execute(file, 'load', step.device);
      for (;;) {
        await new Promise((resolve) => setTimeout(resolve, LOOK_MILLISECONDS));
        const staged = (await pod.staged()).find(({ id }) => id === file);
        if (!staged)
          return fail(
            problem('stage-gone', 'The pod no longer holds the file: it was started anew.', 'Stage it again.'),
          );
        watch.report({
          phase: 'Running on the pod',
          done: staged.log.length,
          total: Math.max(14, staged.log.length),
          unit: 'line',
        });
        if (staged.state === 'running' || staged.state === 'ready') continue;
        await pod.dropStaged(file);
        on.board.said.stageLog = { name: subject.name, log: staged.log, time: new Date().toISOString() };
        await on.board.look();
        await on.store.files.addLoad({
          board: on.board.name,
          device: step.device ?? on.board.said.running?.device ?? -1,
          part: subject.part,
          fingerprint: subject.fingerprint,
          source: `${subject.name}, by the pod`,
          outcome: staged.problem ? 'failed' : 'done',
          verified: null,
        });
        report(staged.problem);
        return staged.problem
          ? fail(staged.problem)
          : ok(`The pod loaded ${subject.name} by itself. ${staged.log.at(-2) ?? ''}`);
      }
    },
  }).id;
}

async function bytesOf(
  on: Needs,
  { source }: LoadStep,
): Promise<{ name: string; bytes: Uint8Array; part: string; fingerprint: string } | null> {
  if (source.kind === 'image') {
    const image = await on.store.files.image(source.id);
    const read = image ? readBitstream(image.bytes) : null;
    return image && read?.ok ? { ...image, part: read.value.part, fingerprint: read.value.fingerprint } : null;
  }
  const usable = await usableBuild(on);
  return usable.ok
    ? {
        name: `build ${usable.value.row.id}`,
        bytes: writeBitstream(usable.value.bitstream),
        part: usable.value.bitstream.part,
        fingerprint: usable.value.bitstream.fingerprint,
      }
    : null;
}
