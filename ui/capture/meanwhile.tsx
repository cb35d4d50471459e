import type { SaidMeanwhile } from '../../core/wave/index.ts';
import { Section } from '../shared/index.ts';

const secondsText = (seconds: number): string => `${seconds < 0 ? '−' : '+'}${Math.abs(seconds).toFixed(3)} s`;

/** What the board said, and was told, around the trigger of a record. */
export const Meanwhile = ({ line }: { readonly line: SaidMeanwhile }) => (
  <Section
    title="On the serial line"
    aside={`from the trigger, which is known to ± ${line.within.toFixed(2)} s`}
    className="mt-3"
  >
    <ol className="max-h-40 overflow-auto border border-line bg-raised" data-testid="line-meanwhile">
      {line.lines.map(({ at, way, text }, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines are as they were said
        <li key={i} className="code flex gap-3 px-2 py-0.5 text-xs">
          <span className="tabular w-20 shrink-0 text-right text-quiet">{secondsText(at)}</span>
          <span className="w-3 shrink-0" title={way === 'out' ? 'sent' : 'from the board'}>
            {way === 'out' ? '›' : ''}
          </span>
          <span className="whitespace-pre">{text}</span>
        </li>
      ))}
    </ol>
  </Section>
);
