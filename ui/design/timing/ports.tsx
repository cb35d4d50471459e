'use client';
import { clsx } from 'clsx';
import type { PortTiming } from '../../../core/mapping/index.ts';
import { Section } from '../../shared/index.ts';

const WORDS = { in: 'in, before the edge', out: 'out, after the edge', through: 'through the part' } as const;

const spare = (slack: number | null): string => (slack === null ? '–' : slack.toFixed(2));

/**
 * How long the ways through the pins take, and what is left of a cycle where the board's share is known. What would
 * shorten a way is said where there is a cycle to keep: elsewhere nobody has said that it is too long.
 */
export function Ports({ ports }: { readonly ports: readonly PortTiming[] }) {
  if (ports.length === 0) return null;
  return (
    <Section
      title="Pins"
      aside="against the clock's edge at its own pin; what the board takes is said in timing.csv: input delay,clk,port,3.5 ns"
      className="mt-4"
    >
      <table className="w-full border-collapse border border-line bg-raised text-sm" aria-label="Pins">
        <thead className="bg-well text-left">
          <tr>
            {['Port', 'Way', 'Clock'].map((head) => (
              <th key={head} className="whitespace-nowrap px-2 py-1 font-bold">
                {head}
              </th>
            ))}
            {['Part, ns', 'Board, ns', 'To spare, ns'].map((head) => (
              <th key={head} className="whitespace-nowrap px-2 py-1 text-right font-bold">
                {head}
              </th>
            ))}
            <th className="px-2 py-1 font-bold">Slowest way</th>
          </tr>
        </thead>
        <tbody>
          {ports.map(({ port, direction, clock, inside, board, slack, path }) => (
            <tr key={`${port} ${direction} ${clock}`} className="border-line border-t align-baseline">
              <td className="code break-words px-2 py-0.5">{port}</td>
              <td className="whitespace-nowrap px-2">{WORDS[direction]}</td>
              <td className="code break-words px-2">{clock ?? '–'}</td>
              <td className="tabular px-2 text-right">{inside.toFixed(2)}</td>
              <td className="tabular px-2 text-right">{board === null ? '–' : board.toFixed(2)}</td>
              <td className={clsx('tabular px-2 text-right', slack !== null && slack < 0 && 'font-bold text-bad')}>
                {spare(slack)}
              </td>
              <td className="px-2 text-xs [overflow-wrap:anywhere]">
                <span className="code block">{direction === 'out' ? path.from : path.to}</span>
                {board !== null && path.advice !== undefined && <span className="block text-quiet">{path.advice}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
