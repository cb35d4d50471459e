import { clsx } from 'clsx';
import { Check as CheckMark, OctagonX, TriangleAlert } from 'lucide-react';

const MARKS = { pass: CheckMark, warn: TriangleAlert, stop: OctagonX } as const;
const SAYS = { pass: 'passes', warn: 'warns', stop: 'stops' } as const;

interface Row {
  readonly name: string;
  readonly state: keyof typeof MARKS;
  readonly message: string;
}

/** What was looked at before an action, and what each look found. */
export function CheckList({
  checks,
  label = (name) => name,
}: {
  readonly checks: readonly Row[];
  readonly label?: (name: string) => string;
}) {
  return (
    <ul className="mb-2 border border-line bg-raised text-sm" data-testid="checks">
      {checks.map(({ name, state: how, message }, i) => {
        const Mark = MARKS[how];
        return (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: a check may come more than once
            key={i}
            data-check={name}
            data-state={how}
            className="grid grid-cols-[1.5rem_7rem_minmax(0,1fr)] gap-x-1 border-line border-t px-2 py-1 first:border-t-0"
          >
            <Mark
              aria-label={SAYS[how]}
              className={clsx(
                'mt-0.5 size-4',
                how === 'pass' ? 'text-good' : how === 'warn' ? 'text-doubt' : 'text-bad',
              )}
            />
            <span>{label(name)}</span>
            <span className={clsx('min-w-0 break-words', how === 'pass' ? 'text-quiet' : 'font-bold')}>{message}</span>
          </li>
        );
      })}
    </ul>
  );
}
