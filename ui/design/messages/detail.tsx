'use client';
import type { Fix } from '../../../server/index.ts';
import { useQueryClient } from '@tanstack/react-query';
import { Crosshair, FileText, Network, Wrench } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { toast } from 'sonner';
import type { JudgedMessage } from '../../../core/build/index.ts';
import { explain } from '../../../core/checks/index.ts';
import { Button, frequency, useAct, useFiles, api, TextInput } from '../../shared/index.ts';
import { useClockPins } from '../clocks/index.ts';
import { useOpenReplay, useOpenSchematic, useOpenSource, useProbeSignal } from '../places.ts';
import { useBuilds } from '../queries.ts';
import { SeverityWord } from './severity.tsx';
import { Trail } from './trail.tsx';
import type { SourcePlace } from '../places.ts';

const AROUND = 3;

/** One message: what it means on the board, the lines it speaks of, what can be done. */
export function MessageDetail({ message }: { readonly message: JudgedMessage }) {
  const open = useOpenSource();
  const queries = useQueryClient();
  const { act, busy } = useAct();
  const explanation = explain(message.code);
  const { fix, trail } = message;
  const draw = useOpenSchematic();
  const probe = useProbeSignal();
  const signals = useBuilds().data?.latest?.details.signals ?? [];
  // The signal a message speaks of: the last stop of its way, or the one declared at its place.
  const drawn = signals.find(
    (s) =>
      s.kept &&
      (trail?.at(-1)?.name.split(' ')[0] === s.name || (!trail && s.file === message.file && s.line === message.line)),
  )?.name;
  const carryOut = async (change: Fix) => {
    if (!(await act(() => api.design.fix.mutate(change)))) return;
    toast.success('Done. Build again to see what it changes.');
    await Promise.all([
      queries.invalidateQueries({ queryKey: ['files'] }),
      queries.invalidateQueries({ queryKey: ['project'] }),
    ]);
  };
  return (
    <section className="min-h-0 overflow-auto" aria-label="Explanation">
      <h2 className="font-bold text-base">{explanation?.title ?? message.code}</h2>
      <p className="mb-2 text-quiet text-sm">
        <SeverityWord of={message.severity} /> · <span className="code text-xs">{message.code}</span>
      </p>
      <p className="mb-2">{message.message}</p>
      <Excerpt message={message} />
      {trail && trail.length > 0 && <Trail stops={trail} closed={message.code === 'loop'} onOpen={open} />}
      {explanation && (
        <>
          <p className="mb-2 text-sm">{explanation.why}</p>
          <ol className="mb-3 list-decimal pl-5 text-sm">
            {explanation.next.map((step) => (
              <li key={step}>{step}</li>
            ))}
          </ol>
        </>
      )}
      <Fixes
        fix={fix}
        busy={busy}
        carryOut={carryOut}
        open={open}
        message={message}
        drawn={drawn}
        probe={probe}
        draw={draw}
      />
      {message.severity !== 'error' && <Acceptance message={message} />}
    </section>
  );
}

interface FixesProps {
  readonly fix: JudgedMessage['fix'];
  readonly busy: boolean;
  readonly carryOut: (change: Fix) => Promise<void>;
  readonly open: (place: SourcePlace) => void;
  readonly message: JudgedMessage;
  readonly drawn: string | undefined;
  readonly probe: (name: string) => void;
  readonly draw: (what: { readonly instance: string } | { readonly cone: string }) => void;
}

function Fixes({ fix, busy, carryOut, open, message, drawn, probe, draw }: FixesProps) {
  const openReplay = useOpenReplay();
  return (
    <div className="flex flex-wrap items-center gap-2">
      {fix?.kind === 'choose-top' &&
        fix.tops.map((top) => (
          <Button
            key={top}
            look={fix.tops.length === 1 ? 'main' : 'plain'}
            disabled={busy}
            onClick={() => carryOut({ kind: 'set-top', top })}
          >
            <Wrench aria-hidden className="size-4" /> {fix.label}: {top}
          </Button>
        ))}
      {fix?.kind === 'find-clock' && (
        <FindClock
          clock={fix.clock}
          busy={busy}
          onTake={(hertz) => carryOut({ kind: 'constrain-clock', clock: fix.clock, hertz })}
        />
      )}
      {fix && fix.kind !== 'choose-top' && fix.kind !== 'find-clock' && (
        <Button look="main" disabled={busy} onClick={() => carryOut(fix)} title={fix.label}>
          <Wrench aria-hidden className="size-4" /> {fix.label}
        </Button>
      )}
      <Button onClick={() => open(message)}>
        <FileText aria-hidden className="size-4" /> Open the place
      </Button>
      {drawn !== undefined && (
        <Button onClick={() => probe(drawn)}>
          <Crosshair aria-hidden className="size-4" /> Probe {drawn.split('.').at(-1)}
        </Button>
      )}
      {drawn?.includes('.') && (
        <Button
          onClick={() => openReplay({ see: drawn.slice(0, drawn.lastIndexOf('.')) })}
          title="What has to be recorded so that everything around it can be computed"
        >
          See all around it
        </Button>
      )}
      {drawn !== undefined && (
        <Button onClick={() => draw({ cone: drawn })} title={`Draw what decides ${drawn}`}>
          <Network aria-hidden className="size-4" /> Draw it
        </Button>
      )}
    </div>
  );
}

/** The frequency as the board in front of us runs, or the place to write it. */
function FindClock({
  clock,
  busy,
  onTake,
}: {
  readonly clock: string;
  readonly busy: boolean;
  readonly onTake: (hertz: number) => void;
}) {
  const router = useRouter();
  const { oscillators } = useClockPins()(clock);
  return (
    <>
      {oscillators.map(({ name, hertz, from }) => (
        <Button key={hertz} look="main" disabled={busy} onClick={() => onTake(hertz)}>
          <Wrench aria-hidden className="size-4" /> Constrain it to {frequency(hertz)}, as {name}{' '}
          {from === 'bench' ? 'on the bench ' : ''}runs
        </Button>
      ))}
      {oscillators.length === 0 && (
        <Button look="main" onClick={() => router.push('/design/clocks')}>
          <Wrench aria-hidden className="size-4" /> Say its frequency
        </Button>
      )}
    </>
  );
}

function Excerpt({ message }: { readonly message: JudgedMessage }) {
  const text = useFiles().data?.find((file) => file.name === message.file)?.text;
  if (text === undefined) return null;
  const lines = text.split('\n');
  const first = Math.max(1, message.line - AROUND);
  return (
    <pre
      data-wide
      // biome-ignore lint/a11y/noNoninteractiveTabindex: long lines are scrolled to by keyboard too
      tabIndex={0}
      className="code mb-2 overflow-auto border border-line bg-raised py-1 text-xs"
    >
      {lines.slice(first - 1, message.line + AROUND).map((line, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a line is its number
        <span key={first + i} className={first + i === message.line ? 'block bg-well font-bold' : 'block'}>
          <span className="inline-block w-10 pr-2 text-right text-quiet">{first + i}</span>
          {line}
        </span>
      ))}
    </pre>
  );
}

/** A message can be accepted with a reason; it stays accepted until its line changes. */
function Acceptance({ message }: { readonly message: JudgedMessage }) {
  const { act, busy } = useAct();
  const queries = useQueryClient();
  const [reason, setReason] = useState('');
  const { code, file, line, message: text, accepted } = message;
  const say = async (why: string | null) => {
    await act(() => api.design.accept.mutate({ code, file, line, message: text, reason: why }));
    await Promise.all([
      queries.invalidateQueries({ queryKey: ['build'] }),
      queries.invalidateQueries({ queryKey: ['files'] }),
    ]);
  };
  if (accepted !== null)
    return (
      <p className="mt-3 flex items-center gap-2 border-line border-t pt-2 text-sm">
        <span>Accepted: {accepted}</span>
        <Button disabled={busy} onClick={() => say(null)}>
          No longer
        </Button>
      </p>
    );
  return (
    <form
      className="mt-3 flex items-center gap-2 border-line border-t pt-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        void say(reason);
      }}
    >
      <TextInput
        size="normal"
        className="min-w-0 flex-1"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        aria-label="Reason"
        placeholder="Why this is all right"
      />
      <Button type="submit" disabled={busy || reason.trim() === ''}>
        Accept
      </Button>
    </form>
  );
}
