import { clsx } from 'clsx';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { type ValueForm, type PanelMap, type PanelReading, parseLimit } from '../../../core/probes/index.ts';
import { Checkbox, Empty, Section, TextInput, useRemembered } from '../../shared/index.ts';
import { Digits, digitBitsOf, show } from './digits.tsx';
import { FormSelect } from './form-select.tsx';

type Gauge = PanelMap['gauges'][number];

interface Props {
  readonly reads: number;
  /** Readings a second, as they come. */
  readonly rate: number | null;
  readonly panels: readonly PanelMap[];
  readonly reading: PanelReading | null;
  readonly formOf: (name: string) => ValueForm;
  readonly forms: Readonly<Record<string, ValueForm>>;
  readonly onForm: (name: string, form: ValueForm | null) => void;
  /** A limit was passed that stops the reading. */
  readonly onStop: () => void;
}

/** Readings that passed a limit, as many as are listed. */
const MOST_TOLD = 200;

const NO_LIMITS: { readonly limits: Readonly<Record<string, string>>; readonly stops: boolean } = {
  ...{ limits: {}, stops: false },
};

export function Gauges({ reads, rate, panels, reading, formOf, forms, onForm, onStop }: Props) {
  const [{ limits, stops }, setKept] = useRemembered('drive-limits', NO_LIMITS);
  const [passed, setPassed] = useState<readonly { readonly at: number; readonly said: string }[]>([]);
  const all = panels.flatMap((panel) => panel.gauges.map((gauge) => ({ panel, gauge })));
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
      {all.length === 0 && <Empty>No gauge in this build. Choose one under Probe.</Empty>}
      <ul>
        {all.map(({ panel, gauge }) => (
          <Row
            key={`${panel.name} ${gauge.name}`}
            title={panels.length > 1 ? `${gauge.name}, panel ${panel.name}` : gauge.name}
            gauge={gauge}
            reading={reading}
            radix={formOf(gauge.name)}
            form={forms[gauge.name] ?? null}
            onForm={(form) => onForm(gauge.name, form)}
            limit={limits[gauge.name] ?? ''}
            onLimit={(text) => setKept({ limits: { ...limits, [gauge.name]: text } })}
            onPassed={(said) => {
              setPassed((list) => [{ at: Date.now(), said }, ...list].slice(0, MOST_TOLD));
              if (stops) onStop();
            }}
          />
        ))}
      </ul>
      {Object.values(limits).some((text) => text.trim() !== '') && (
        <Checkbox
          className="mt-2 text-sm"
          checked={stops}
          onChange={(event) => setKept({ stops: event.target.checked })}
        >
          stop reading where a limit is passed
        </Checkbox>
      )}
      {passed.length > 0 && (
        <ol
          className="code mt-2 max-h-32 overflow-auto border border-line bg-raised px-2 py-1 text-xs"
          aria-label="Limits passed"
        >
          {passed.map(({ at, said }) => (
            <li key={`${at} ${said}`}>
              <span className="text-quiet">{new Date(at).toISOString().slice(11, 23)}</span> {said}
            </li>
          ))}
        </ol>
      )}
    </Section>
  );
}

interface RowProps {
  readonly gauge: Gauge;
  readonly title: string;
  readonly reading: PanelReading | null;
  readonly radix: ValueForm;
  readonly form: ValueForm | null;
  readonly onForm: (form: ValueForm | null) => void;
  readonly limit: string;
  readonly onLimit: (text: string) => void;
  /** What it was, and what it should have been. */
  readonly onPassed: (said: string) => void;
}

function Row({ gauge, title, reading, radix, form, onForm, limit, onLimit, onPassed }: RowProps) {
  const value = reading?.gauges[gauge.name];
  const passed = useLimit({ gauge, radix, limit, onPassed }, reading, value);
  const moved = reading?.activity?.[gauge.name];
  return (
    <li className="flex flex-wrap items-baseline gap-x-3 border-line border-b py-1.5">
      <span className="min-w-32 flex-1 truncate text-sm" title={title}>
        {gauge.name.slice(gauge.name.indexOf('.') + 1)}{' '}
        <span className="tabular text-quiet text-xs">{gauge.width} bit</span>
        {moved && <Moved {...moved} width={gauge.width} />}
      </span>
      <FormSelect signal={gauge} form={form} onForm={onForm} />
      <TextInput
        size="tiny"
        isCode
        className={clsx('w-20', limit === '' && 'border-transparent! hover:border-line! focus:border-line!')}
        aria-label={`Limit for ${gauge.name}`}
        title="Marked where it is not kept, such as < 400"
        placeholder="limit"
        defaultValue={limit}
        onBlur={(event) => event.target.value !== limit && onLimit(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
      <span
        className={clsx(
          'code min-w-36 max-w-full text-right text-lg',
          passed.now && 'bg-bad/10 px-1 font-bold text-bad',
        )}
        data-testid={`gauge-${gauge.name}`}
      >
        <Digits text={show(value, gauge, radix)} label={gauge.name} digitBits={digitBitsOf(radix)} />
      </span>
      {passed.times > 0 && (
        <span className="tabular w-full text-right text-bad text-xs" data-testid={`passed-${gauge.name}`}>
          not {limit} in {passed.times.toLocaleString('en')} {passed.times === 1 ? 'reading' : 'readings'}
        </span>
      )}
    </li>
  );
}

interface MovedProps {
  readonly rose: bigint;
  readonly fell: bigint;
  readonly changes: number;
  readonly width: number;
}

/** As many changes as the hardware counts. */
const MOST_CHANGES = 255;

/** What rose and fell since the reading before, and how often, seen by the hardware at every edge between. */
function Moved({ rose, fell, changes, width }: MovedProps) {
  if (rose === 0n && fell === 0n) return null;
  const words = [...(rose ? ['rose'] : []), ...(fell ? ['fell'] : [])].join(', ');
  const bits = (word: bigint) => word.toString(2).padStart(width, '0');
  return (
    <span
      className="tabular ml-2 text-signal-deep text-xs"
      title={`Since the reading before: rose ${bits(rose)}, fell ${bits(fell)}`}
    >
      {words}, {changes >= MOST_CHANGES ? `${MOST_CHANGES} times or more` : changes === 1 ? 'once' : `${changes} times`}
    </span>
  );
}

/** Whether the newest reading passes the limit, and how many have since it was given. */
function useLimit(
  { gauge, radix, limit, onPassed }: Pick<RowProps, 'gauge' | 'radix' | 'limit' | 'onPassed'>,
  reading: PanelReading | null,
  value: bigint | undefined,
): { readonly now: boolean; readonly times: number } {
  const [times, setTimes] = useState(0);
  const read = limit.trim() === '' ? null : parseLimit(limit, gauge, radix);
  const now = read?.ok === true && value !== undefined && !read.value(value);
  const wrong = read && !read.ok ? read.error : null;
  const said = `${gauge.name.slice(gauge.name.indexOf('.') + 1)} is ${show(value, gauge, radix)}, not ${limit.trim()}`;
  const told = useRef({ onPassed, now, said });
  told.current = { onPassed, now, said };
  // biome-ignore lint/correctness/useExhaustiveDependencies: another limit is counted anew
  useEffect(() => {
    setTimes(0);
    if (wrong) toast.error(wrong.message, { description: wrong.tryNext[0] });
  }, [limit]);
  useEffect(() => {
    if (reading === null || !told.current.now) return;
    setTimes((before) => before + 1);
    told.current.onPassed(told.current.said);
  }, [reading]);
  return { now, times };
}
