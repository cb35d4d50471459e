'use client';
import { clsx } from 'clsx';
import { useEffect, useMemo, useState } from 'react';
import { type api, dateTime, DownloadLink, Empty, fetchFile, Section, TextButton } from '../../shared/index.ts';
import type { Incident, Source } from '../../wave/index.ts';
import { useOpenSource } from '../places.ts';
import { Console } from './console.tsx';
import { Waves } from './waves.tsx';

type Run = NonNullable<Awaited<ReturnType<typeof api.design.simulation.query>>>;

const ENDINGS = {
  finish: 'ended by $finish',
  stop: 'ended by $stop',
  idle: 'ended: nothing was left to do',
  limit: 'stopped at its time limit',
  loop: 'stands still',
  oscillation: 'stands still',
  cancelled: 'was cancelled',
  fatal: 'ended by $fatal',
  fault: 'could not go on',
} as const;

/** How a run ended, what it printed and said, and its waves. */
export function Outcome({ run }: { readonly run: Run }) {
  const [goTo, setGoTo] = useState<{ readonly tick: number } | null>(null);
  const { result, testbench, created } = run;
  const isGood = result.errors === 0 && (result.ending === 'finish' || result.ending === 'idle');
  return (
    <>
      <p className="mb-2 text-sm">
        <Word isGood={isGood}>{isGood ? 'Passed' : 'Failed'}</Word> <span className="code text-xs">{testbench}</span>{' '}
        {ENDINGS[result.ending]} at <span className="tabular">{result.time}</span>,{' '}
        {result.errors === 0 ? 'no errors' : `${result.errors} errors`}. {result.told}{' '}
        <span className="text-quiet">{dateTime(created)}</span>
      </p>
      <div className="mb-3 grid grid-cols-[minmax(0,1fr)_minmax(18rem,26rem)] gap-4">
        <Section title="Printed" aside={result.cut ? 'cut short' : undefined} className="mb-0">
          <Console text={result.output} />
        </Section>
        <Section title="Said" aside={`${result.reports.length}`} className="mb-0">
          <Reports run={run} onGo={(tick) => setGoTo({ tick })} />
        </Section>
      </div>
      <RunWaves key={run.id} run={run} goTo={goTo} />
    </>
  );
}

const Word = ({ isGood, children }: { readonly isGood: boolean; readonly children: string }) => (
  <span className={clsx('font-bold', isGood ? 'text-good' : 'text-bad')}>{children}</span>
);

const COLOURS = { info: 'text-quiet', warning: 'text-doubt', error: 'text-bad', fatal: 'text-bad' } as const;

/** Errors, warnings and failed assertions, each with its place. */
function Reports({ run: { result }, onGo }: { readonly run: Run; readonly onGo: (tick: number) => void }) {
  const open = useOpenSource();
  if (result.reports.length === 0) return <Empty>No $error, no $warning, and every assertion held.</Empty>;
  return (
    <ul className="max-h-36 overflow-y-auto text-sm" aria-label="Said by the testbench">
      {result.reports.map((one, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes
        <li key={i} className="border-line border-b py-1">
          <span className={clsx('font-bold', COLOURS[one.severity])}>{one.severity}</span> {one.message}
          <div className="text-quiet text-xs">
            <TextButton onClick={() => open(one.at)}>
              {one.at.file}:{one.at.line}
            </TextButton>{' '}
            in <span className="code">{one.path}</span> at{' '}
            <TextButton className="tabular" title="Look at it in the waves" onClick={() => onGo(one.time)}>
              {one.moment}
            </TextButton>
          </div>
        </li>
      ))}
    </ul>
  );
}

interface RunWavesProps {
  readonly run: Run;
  readonly goTo: { readonly tick: number } | null;
}

/** Every signal of the run over time; what failed stands on the time line. */
function RunWaves({ run: { id, testbench, result }, goTo }: RunWavesProps) {
  const [file, setFile] = useState<File | null>(null);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    const gone = new AbortController();
    fetchFile(`/api/simulations/${id}`, { signal: gone.signal })
      .then(setFile)
      .catch(() => {
        if (!gone.signal.aborted) setFailed(true);
      });
    return () => gone.abort();
  }, [id]);
  const source = useMemo((): Source | null => (file ? { kind: 'file', file } : null), [file]);
  const incidents = useMemo(
    () =>
      result.reports
        .filter(({ severity }) => severity !== 'info')
        .map(({ time, message, severity }): Incident => ({ tick: time, text: message, isBad: severity !== 'warning' })),
    [result],
  );
  return (
    <Section
      title="Waves"
      aside={
        <DownloadLink href={`/api/simulations/${id}`} className="text-quiet text-sm hover:underline">
          {testbench}.vcd
        </DownloadLink>
      }
    >
      {result.dumpCut && (
        <p className="mb-1 text-quiet text-sm">The waves end before the run does: there was more than is kept.</p>
      )}
      {failed && <Empty>The waves of this run cannot be had. Run it again.</Empty>}
      {source && <Waves of={testbench} source={source} incidents={incidents} goTo={goTo} />}
    </Section>
  );
}
