import { frequency } from '../shared/index.ts';
import { Port, type Ported } from './port.tsx';

interface Props extends Ported {
  readonly label: string;
  /** 0 dark to 1 lit all the time. */
  readonly level: number;
  readonly tone: 'signal' | 'good';
  readonly hertz?: number | null;
  readonly testId: string;
}

/** A lamp as bright as it is lit, with its blinking rate where it has one. */
export function Lamp({ label, level, tone, hertz, testId, port }: Props) {
  const lit = Math.min(1, Math.sqrt(level));
  return (
    <div
      className="flex flex-col items-center gap-1 text-center text-xs"
      data-testid={testId}
      data-level={level.toFixed(2)}
      data-hertz={hertz?.toFixed(3) ?? ''}
    >
      <span
        className="relative block size-4 rounded-full border border-quiet bg-raised"
        role="img"
        aria-label={`${label} ${level > 0.5 ? 'lit' : level > 0.02 ? 'dim' : 'dark'}`}
      >
        <span
          className={`absolute inset-0.5 rounded-full ${tone === 'signal' ? 'bg-signal' : 'bg-good'}`}
          style={{ opacity: lit }}
        />
      </span>
      <span className="leading-tight">{label}</span>
      <Port port={port} />
      {hertz !== undefined && (
        <span className="tabular h-3 text-[0.62rem] text-quiet leading-none">
          {hertz === null ? '' : frequency(hertz)}
        </span>
      )}
    </div>
  );
}
