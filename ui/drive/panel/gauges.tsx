import type { DriveRadix, PanelMap, PanelReading } from '../../../core/probes/index.ts';
import { Empty, Section } from '../../shared/index.ts';
import { Digits, digitBitsOf, show } from './digits.tsx';

interface Props {
  readonly reads: number;
  /** Readings a second, as they come. */
  readonly rate: number | null;
  readonly panels: readonly PanelMap[];
  readonly reading: PanelReading | null;
  readonly radix: DriveRadix;
}

export function Gauges({ reads, rate, panels, reading, radix }: Props) {
  return (
    <Section
      className="min-w-0"
      title="Gauges"
      aside={
        <span className="tabular">
          design → you, {reads.toLocaleString('en')} readings{rate === null ? '' : `, ${rate.toFixed(1)} /s`}
        </span>
      }
    >
      {panels.every(({ gauges }) => gauges.length === 0) && (
        <Empty>No gauge in this build. Choose one under Probe.</Empty>
      )}
      <dl>
        {panels
          .flatMap((panel) => panel.gauges.map((gauge) => ({ panel, gauge })))
          .map(({ panel, gauge }) => (
            <div
              key={`${panel.name} ${gauge.name}`}
              className="flex flex-wrap items-baseline gap-x-3 border-line border-b py-1.5"
            >
              <dt
                className="min-w-32 flex-1 truncate text-sm"
                title={panels.length > 1 ? `${gauge.name}, panel ${panel.name}` : gauge.name}
              >
                {gauge.name.slice(gauge.name.indexOf('.') + 1)}{' '}
                <span className="tabular text-quiet text-xs">{gauge.width} bit</span>
              </dt>
              <dd className="code min-w-0 max-w-full text-right text-lg" data-testid={`gauge-${gauge.name}`}>
                <Digits
                  text={show(reading?.gauges[gauge.name], gauge.width, radix)}
                  label={gauge.name}
                  digitBits={digitBitsOf(radix)}
                />
              </dd>
            </div>
          ))}
      </dl>
    </Section>
  );
}
