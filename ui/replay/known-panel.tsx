'use client';
import { meaningText, READ_BEHIND_THE_END, reasonText } from '../../core/replay/index.ts';
import { counted } from '../../core/words.ts';
import { Fact, TextButton } from '../shared/index.ts';
import { type OpenRecord, timeText, type Waves } from '../wave/index.ts';
import { inside } from './words.ts';

interface Props {
  readonly record: OpenRecord;
  readonly waves: Waves;
}

const HOW = { trigger: 'behind the trigger, in sample', standing: 'while the design stood, in sample' } as const;

/** What was seen from how little, what stays unknown, and where record and design do not agree. */
export function KnownPanel({ record: { opened }, waves: { axis, go } }: Props) {
  const facts = opened.replay;
  if (!facts) return null;
  const { stored, seen, samples, unknown, disagreements, missing, unmatched, readings, isReadBehind } = facts;
  return (
    <div className="grid grid-cols-2 gap-6 text-sm">
      <div>
        <dl>
          <Fact name="Recorded">{counted(stored, 'bit')} a sample</Fact>
          <Fact name="Seen">
            {counted(seen, 'bit')}, {(seen / Math.max(1, stored)).toFixed(1)} for one
          </Fact>
          {readings.length > 0 && (
            <Fact name="Read once">
              {readings.map(({ sample, how, bits }) => `${counted(bits, 'bit')} ${HOW[how]} ${sample}`).join(', ')}
            </Fact>
          )}
          <Fact name="Record and design">
            {disagreements.length === 0
              ? 'agree wherever both say something'
              : counted(disagreements.length, 'disagreement')}
          </Fact>
        </dl>
        {disagreements.map((one) => (
          <div key={one.signal} className="mt-2 border-bad border-l-4 bg-raised px-3 py-1.5">
            <p>
              <TextButton onClick={() => go(one.tick)}>{timeText(axis, one.tick)}</TextButton>:{' '}
              <span className="code text-xs">{inside(one.signal)}</span> was{' '}
              <span className="code">{one.recorded}</span>, the design makes it{' '}
              <span className="code">{one.computed}</span>; in {counted(one.samples, 'sample')}.
            </p>
            <p className="text-quiet">{meaningText(one.means)}</p>
          </div>
        ))}
        {isReadBehind && <p className="mt-1 text-quiet">{READ_BEHIND_THE_END}</p>}
        {missing.map((reason) => (
          <p key={`${reason.kind} ${reason.name}`} className="mt-1 text-quiet">
            Not computed: {reasonText(reason, inside)}.
          </p>
        ))}
        {unmatched.names.length > 0 && (
          <p className="mt-1 text-quiet">Not in the design: {unmatched.names.join(', ')}.</p>
        )}
      </div>
      <div>
        <h3 className="font-bold">Not known throughout</h3>
        {unknown.length === 0 ? (
          <p className="text-quiet">Everything is known in all samples.</p>
        ) : (
          <ul className="tabular">
            {unknown.map((one) => (
              <li key={one.signal} className="flex justify-between gap-3 border-line border-b py-0.5">
                <span className="code truncate text-xs">{inside(one.signal)}</span>
                <span className="shrink-0 text-quiet">
                  {one.samples === samples ? 'in no sample' : `not in ${counted(one.samples, 'sample')}`}
                </span>
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
