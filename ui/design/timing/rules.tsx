'use client';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { TIMING_TABLE, type WayRule, withWayRule } from '../../../core/constraints/index.ts';
import type { RuleUse, TimingPath } from '../../../core/mapping/index.ts';
import { api, Button, Section, TextButton, TextInput, useAct, useFiles } from '../../shared/index.ts';
import { useOpenSource } from '../places.ts';

/** The register or memory at an end, as the timing table names it, of a build that does not say so. */
const nameOf = (end: string): string =>
  end
    .replace(/\[\d+(?::\d+)?\]$/, '')
    .replace(/ \(\w+\)$/, '')
    .replace(/\[\d+(?::\d+)?\]$/, '');

/** Ways that do not count as they stand, by the line of the timing table that says so. */
export function SetAside({ rules }: { readonly rules: readonly RuleUse[] }) {
  const show = useOpenSource();
  if (rules.length === 0) return null;
  return (
    <Section title="Set aside" aside={`what ${TIMING_TABLE} says of ways between registers`} className="mt-4">
      <table className="w-full border-collapse border border-line bg-raised text-sm" aria-label="Set aside">
        <thead className="bg-well text-left">
          <tr>
            {['Rule', 'From', 'To'].map((head) => (
              <th key={head} className="px-2 py-1 font-bold">
                {head}
              </th>
            ))}
            {['Ends', 'Longest, ns'].map((head) => (
              <th key={head} className="px-2 py-1 text-right font-bold">
                {head}
              </th>
            ))}
            <th className="px-2 py-1 font-bold">Said in</th>
          </tr>
        </thead>
        <tbody>
          {rules.map(({ line, kind, cycles, from, to, ways, longest }) => (
            <tr key={line} className="border-line border-t">
              <td className="whitespace-nowrap px-2 py-0.5">
                {kind === 'multicycle' ? `${cycles} cycles` : 'does not matter'}
              </td>
              <td className="code break-words px-2">{from}</td>
              <td className="code break-words px-2">{to}</td>
              <td className="tabular px-2 text-right">{ways}</td>
              <td className="tabular px-2 text-right">{ways === 0 ? '–' : longest.toFixed(2)}</td>
              <td className="px-2">
                <TextButton onClick={() => show({ file: TIMING_TABLE, line })}>
                  {TIMING_TABLE}:{line}
                </TextButton>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

/** Writes into the timing table what is known of a way. */
export function SayOfWay({ path }: { readonly path: TimingPath }) {
  const queries = useQueryClient();
  const files = useFiles().data ?? [];
  const { act } = useAct();
  const [cycles, setCycles] = useState('2');
  const [said, setSaid] = useState(false);
  const count = Number(cycles);
  const isCount = Number.isInteger(count) && count > 1 && count <= 1000;
  const say = async (kind: WayRule['kind']) => {
    const text = files.find(({ name }) => name === TIMING_TABLE)?.text ?? '';
    const ends = path.ends ?? { from: nameOf(path.from), to: nameOf(path.to) };
    const rule = { kind, ...ends, cycles: kind === 'multicycle' ? count : 0 };
    const file = { name: TIMING_TABLE, text: withWayRule(text, rule) };
    if (await act(() => api.project.addFiles.mutate({ files: [file] }))) setSaid(true);
    await queries.invalidateQueries({ queryKey: ['files'] });
  };
  if (said) return <p className="ml-2 text-quiet text-xs">Written in {TIMING_TABLE}; the next build goes by it.</p>;
  return (
    <div className="ml-2 flex flex-wrap items-center gap-2 text-xs">
      Of all ways between these two:
      <Button onClick={() => void say('multicycle')} disabled={!isCount}>
        They may take
      </Button>
      <TextInput
        value={cycles}
        onChange={(event) => setCycles(event.target.value)}
        aria-label="Cycles"
        aria-invalid={!isCount}
        className="tabular w-14"
      />
      cycles
      <Button onClick={() => void say('false path')}>They do not matter</Button>
    </div>
  );
}
