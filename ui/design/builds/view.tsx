'use client';
import { useQuery } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Fragment, useState } from 'react';
import type { Comparison } from '../../../core/build/index.ts';
import {
  dateTime,
  duration,
  Empty,
  frequency,
  clockRate,
  Section,
  shortPrint,
  useLive,
  answerOf,
  api,
  Checkbox,
} from '../../shared/index.ts';
import { SeverityWord } from '../messages/index.ts';

/** The builds that are kept. Two of them chosen are compared. */
export function BuildsView() {
  const state = useLive('project', 'latest');
  const builds =
    useQuery({
      queryKey: ['builds', state?.project?.id ?? 0, state?.latest?.id ?? 0],
      enabled: state !== null,
      placeholderData: (before) => before,
      queryFn: () => api.design.builds.query(),
    }).data ?? [];
  const [picked, setPicked] = useState<readonly number[]>([]);
  const chosen = picked.filter((id) => builds.some((b) => b.id === id));
  const [before, after] = chosen.length === 2 ? [...chosen].sort((a, b) => a - b) : [builds[1]?.id, builds[0]?.id];
  const pick = (id: number) =>
    setPicked((old) => (old.includes(id) ? old.filter((p) => p !== id) : [...old, id].slice(-2)));
  if (builds.length === 0) return <Empty>Nothing has been built yet. Press Build.</Empty>;
  return (
    <div className="min-h-0 overflow-auto">
      <table className="w-full border-collapse text-sm" aria-label="Builds">
        <thead className="bg-well text-left">
          <tr>
            {[
              '',
              'Build',
              'Made',
              'Fingerprint',
              'Part',
              'LUTs',
              'Flip-flops',
              'Block RAMs',
              'Clocks',
              'Messages',
              'Took',
            ].map((head, i) => (
              <th key={head || i} className="whitespace-nowrap px-2 py-1 font-bold">
                {head === '' ? <span className="sr-only">What can be done</span> : head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {builds.map((b) => (
            <tr key={b.id} className={clsx('border-line border-t', (b.id === before || b.id === after) && 'bg-raised')}>
              <td className="px-2">
                <Checkbox
                  checked={chosen.includes(b.id)}
                  onChange={() => pick(b.id)}
                  aria-label={`Compare build ${b.id}`}
                />
              </td>
              <td className="tabular px-2 py-1">{b.id}</td>
              <td className="tabular whitespace-nowrap px-2">{dateTime(b.created)}</td>
              <td className={clsx('px-2', b.good ? 'code' : 'text-bad')}>
                {b.good ? shortPrint(b.fingerprint) : 'errors'}
              </td>
              <td className="px-2">{b.part}</td>
              <td className="tabular px-2">{b.resources.luts}</td>
              <td className="tabular px-2">{b.resources.registers}</td>
              <td className="tabular px-2">{b.resources.blockRams}</td>
              <td className="tabular px-2">
                <Rates of={b.highest} />
              </td>
              <td className="tabular px-2">{b.messages}</td>
              <td className="tabular whitespace-nowrap px-2 text-quiet">{duration(b.milliseconds)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {before !== undefined && after !== undefined ? (
        <Compared before={before} after={after} />
      ) : (
        <p className="mt-2 text-quiet text-sm">A second build is needed to compare.</p>
      )}
    </div>
  );
}

type Rate = Parameters<typeof clockRate>[0] & { readonly clock: string };

/** One line a clock: how fast it could run, beside what is wanted of it. */
function Rates({ of }: { readonly of: readonly Rate[] }) {
  const known = of.filter(({ highest }) => highest !== null);
  if (known.length === 0) return <>–</>;
  return (
    <ul className="text-xs">
      {known.map((one) => (
        <li key={one.clock} className="whitespace-nowrap">
          {one.clock} {clockRate(one)}
        </li>
      ))}
    </ul>
  );
}

function Compared({ before, after }: { readonly before: number; readonly after: number }) {
  const answer = useQuery({
    queryKey: ['compare', before, after],
    queryFn: () => answerOf(api.design.compareBuilds.query({ before, after })),
  }).data;
  if (!answer) return null;
  if (!answer.ok) return <Empty>{answer.problem.message}</Empty>;
  const { figures, instances, appeared, gone } = answer.value;
  const shown = (value: number | null, unit: string) =>
    value === null ? '–' : unit === 'Hz' ? frequency(value) : String(value);
  return (
    <Section title={`From build ${before} to build ${after}`} className="mt-4">
      <div className="grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-6">
        <table className="w-full self-start text-sm" aria-label="Figures">
          <thead className="text-left text-quiet">
            <tr>
              <th className="font-normal">figure</th>
              <th className="px-3 text-right font-normal">build {before}</th>
              <th className="px-3 text-right font-normal">build {after}</th>
              <th className="pl-3 text-right font-normal">change</th>
            </tr>
          </thead>
          <tbody>
            {figures.map(({ name, unit, before: a, after: b }) => (
              <tr key={name} className="border-line border-t">
                <td className="py-0.5">{name}</td>
                <td className="tabular whitespace-nowrap px-3 text-right">{shown(a, unit)}</td>
                <td className="tabular whitespace-nowrap px-3 text-right">{shown(b, unit)}</td>
                <td className="tabular whitespace-nowrap pl-3 text-right font-bold">
                  {a === null || b === null || a === b
                    ? ''
                    : unit === 'Hz'
                      ? `${b > a ? '+' : ''}${(((b - a) / a) * 100).toFixed(1)} %`
                      : `${b > a ? '+' : ''}${b - a}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <div>
          <Changes title="New messages" list={appeared} none="No new messages." />
          <Changes title="Gone" list={gone} none="None of the old ones is gone." />
        </div>
      </div>
      <Instances before={before} after={after} list={instances} />
    </Section>
  );
}

/** Which instances grew or shrank, the largest change first. */
function Instances({
  before,
  after,
  list,
}: {
  readonly before: number;
  readonly after: number;
  readonly list: Comparison['instances'];
}) {
  const cells = ([x, y]: readonly [number | null, number | null]) => (
    <>
      <td className="tabular whitespace-nowrap px-3 text-right">{x ?? '–'}</td>
      <td className="tabular whitespace-nowrap px-3 text-right">{y ?? '–'}</td>
      <td className="tabular whitespace-nowrap pr-3 text-right font-bold">{signed((y ?? 0) - (x ?? 0))}</td>
    </>
  );
  return (
    <div className="mt-3 text-sm">
      <h3 className="font-bold">Instances that changed in size, without those inside them</h3>
      {list.length === 0 ? (
        <p className="text-quiet">None.</p>
      ) : (
        <table className="w-full table-fixed" aria-label="Instances that changed in size">
          <thead className="text-left text-quiet">
            <tr>
              <th className="w-2/5 font-normal" rowSpan={2}>
                instance
              </th>
              <th className="px-3 text-center font-normal" colSpan={3}>
                LUTs
              </th>
              <th className="px-3 text-center font-normal" colSpan={3}>
                flip-flops
              </th>
            </tr>
            <tr>
              {['LUTs', 'flip-flops'].map((of) => (
                <Fragment key={of}>
                  <th className="px-3 text-right font-normal">{before}</th>
                  <th className="px-3 text-right font-normal">{after}</th>
                  <th className="pr-3 text-right font-normal">change</th>
                </Fragment>
              ))}
            </tr>
          </thead>
          <tbody>
            {list.slice(0, MOST_INSTANCES).map(({ path, luts, registers }) => (
              <tr key={path} className="border-line border-t">
                <td className="code break-words py-0.5 text-xs">{path}</td>
                {cells(luts)}
                {cells(registers)}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {list.length > MOST_INSTANCES && <p className="text-quiet">and {list.length - MOST_INSTANCES} more</p>}
    </div>
  );
}

const MOST_INSTANCES = 20;

const signed = (change: number): string => (change > 0 ? `+${change}` : change === 0 ? '' : String(change));

function Changes({
  title,
  list,
  none,
}: {
  readonly title: string;
  readonly list: Comparison['appeared'];
  readonly none: string;
}) {
  return (
    <div className="mb-3 text-sm">
      <h3 className="font-bold">{title}</h3>
      {list.length === 0 ? (
        <p className="text-quiet">{none}</p>
      ) : (
        <ul>
          {list.map((m) => (
            <li key={`${m.code}${m.file}${m.line}${m.message}`} className="border-line border-t py-0.5">
              <SeverityWord of={m.severity} /> {m.message}{' '}
              <span className="code text-quiet text-xs">
                {m.file}:{m.line}
              </span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
