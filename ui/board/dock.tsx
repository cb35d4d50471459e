'use client';
import { clsx } from 'clsx';
import { PanelRightClose, PanelRightOpen } from 'lucide-react';
import { Switch } from 'radix-ui';
import { useState } from 'react';
import { dateTime, frequency, send, shortPrint, useAct, useLive, usePanel } from '../shared/index.ts';
import { Digits } from './digits.tsx';
import { LockPicture } from './lock.tsx';
import { Lamp } from './lamp.tsx';

const RECONFIGURE = 'Empties the FPGA and lets it read its flash again. The design’s own reset button does not.';

export function BoardDock() {
  const [open, setOpen] = useState(true);
  if (!open)
    return (
      <aside className="shrink-0 border-line border-l bg-raised p-2" aria-label="Board">
        <button
          type="button"
          onClick={() => setOpen(true)}
          aria-label="Unfold the board"
          className="p-1 text-quiet hover:text-ink"
        >
          <PanelRightOpen className="size-4" />
        </button>
      </aside>
    );
  return (
    <aside
      className="flex w-[19rem] shrink-0 flex-col overflow-auto border-line border-l bg-raised px-4 py-3"
      aria-label="Board"
    >
      <div className="flex items-baseline">
        <BoardName />
        <button
          type="button"
          onClick={() => setOpen(false)}
          aria-label="Fold the board away"
          className="ml-auto p-1 text-quiet hover:text-ink"
        >
          <PanelRightClose className="size-4" />
        </button>
      </div>
      <Memory />
      <Face />
    </aside>
  );
}

function BoardName() {
  const pod = useLive()?.pod;
  return <h2 className="font-bold text-lg">{pod?.name ?? 'No board'}</h2>;
}

/** What runs, and whether it would survive the night. */
function Memory() {
  const state = useLive();
  const powered = usePanel()?.powered ?? null;
  const asked = state?.running ?? null;
  const running = asked?.fingerprint ?? null;
  const kept = state?.kept ?? null;
  const isKept = running !== null && kept?.fingerprint === running;
  const usedBy = state?.usedBy ?? null;
  const word =
    usedBy !== null
      ? `in use by ${usedBy}`
      : asked === null
        ? powered === false
          ? 'without power'
          : 'not asked'
        : running === null
          ? asked.status.done
            ? 'a design without fingerprint'
            : 'nothing'
          : shortPrint(running);
  const sentence = isKept
    ? `kept, ${kept ? dateTime(kept.time) : ''}`
    : running
      ? 'running, not kept'
      : usedBy !== null
        ? 'what it runs is asked when the pod is free'
        : asked === null
          ? powered === false
            ? 'the board is off'
            : 'what the FPGA runs was not asked'
          : asked.status.done
            ? 'DONE is high'
            : 'the FPGA is empty';
  return (
    <dl className="mb-3 text-sm">
      <div className="flex justify-between gap-2">
        <dt className="text-quiet">Running</dt>
        <dd className={clsx('truncate', running !== null && 'code')} title={word} data-testid="dock-running">
          {word}
        </dd>
      </div>
      <div className="flex justify-between gap-2">
        <dt className="text-quiet">Flash</dt>
        <dd
          className={clsx(kept && 'code')}
          title={kept ? `${kept.chip}, written ${dateTime(kept.time)}${kept.by ? ` by ${kept.by}` : ''}` : undefined}
        >
          {kept ? shortPrint(kept.fingerprint) : 'nothing kept by us'}
        </dd>
      </div>
      <p className={isKept ? 'text-good' : running ? 'text-doubt' : 'text-quiet'} data-testid="dock-kept">
        {sentence}
      </p>
    </dl>
  );
}

function Face() {
  const panel = usePanel();
  const { act } = useAct();
  const state = useLive();
  const kept = (state?.kept ?? null) !== null || state?.rehearsal?.status.bootSource === 'jtag';
  const operate = (control: string, on: boolean) => void act(() => send('/api/board', 'POST', { control, on }));
  if (!panel)
    return (
      <p className="border border-line border-dashed p-4 text-center text-quiet text-sm">
        No pod is connected. See Bench.
      </p>
    );
  const done = panel.done[String(panel.fpga)] ?? false;
  const wrongSwitch = panel.bootSource === 'jtag' && kept;
  const reset = panel.buttons.find(({ label }) => label === 'reset');
  return (
    <div className="rounded-[6px] border border-quiet bg-well p-3" data-testid="board-face">
      <div className="mb-3 flex items-start justify-between">
        <Lamp label="power" level={panel.powered ? 1 : 0} tone="good" testId="lamp-power" />
        <Lamp label="DONE" level={done ? 1 : 0} tone="good" testId="lamp-done" />
        <button
          type="button"
          className="h-7 rounded-[3px] border border-quiet bg-raised px-2 text-sm hover:border-ink"
          onClick={() => act(() => send('/api/jobs', 'POST', { kind: 'power', on: !panel.powered }))}
        >
          {panel.powered ? 'Power off' : 'Power on'}
        </button>
      </div>
      <div
        className={clsx(
          'mb-3 flex items-center gap-1.5 text-sm',
          wrongSwitch && 'rounded-[3px] outline-2 outline-doubt outline-offset-4',
        )}
        data-testid="boot-switch"
      >
        <span className={wrongSwitch ? 'font-bold text-doubt' : 'text-quiet'}>Boot</span>
        {(['flash', 'jtag'] as const).map((source) => (
          <button
            key={source}
            type="button"
            aria-pressed={panel.bootSource === source}
            className={`h-6 rounded-[3px] border px-1.5 ${panel.bootSource === source ? 'border-ink bg-ink text-white' : 'border-quiet bg-raised'}`}
            onClick={() => act(() => send('/api/board', 'POST', { bootSource: source }))}
          >
            {source === 'flash' ? 'flash' : 'JTAG'}
          </button>
        ))}
        <button
          type="button"
          title={RECONFIGURE}
          className="ml-auto h-6 rounded-[3px] border border-quiet bg-raised px-1.5 hover:border-ink"
          onClick={() => act(() => send('/api/board', 'POST', { reconfigure: true }))}
        >
          Reconfigure
        </button>
      </div>
      {wrongSwitch && (
        <p className="mb-3 text-doubt text-xs">
          The flash holds a design, but the switch stands at JTAG: nothing boots. Set it to flash.
        </p>
      )}
      <Digits digits={panel.digits} />
      {panel.lock && <LockPicture lock={panel.lock} />}
      <div className="mt-3 grid grid-cols-4 gap-x-1 gap-y-2">
        {panel.lamps.map((lamp) => (
          <Lamp
            key={lamp.name}
            label={lamp.label}
            level={lamp.level}
            tone="signal"
            hertz={lamp.hertz}
            testId={`lamp-${lamp.name}`}
          />
        ))}
      </div>
      <div className="mt-4 grid grid-cols-4 gap-1">
        {panel.buttons.map(({ name, label, down }) => (
          <button
            key={name}
            type="button"
            aria-label={`Button ${name}, ${label}`}
            aria-pressed={down}
            className="flex flex-col items-center gap-1 text-xs"
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              operate(name, true);
            }}
            onPointerUp={() => operate(name, false)}
            onPointerCancel={() => operate(name, false)}
            onKeyDown={(event) => (event.key === ' ' || event.key === 'Enter') && !event.repeat && operate(name, true)}
            onKeyUp={(event) => (event.key === ' ' || event.key === 'Enter') && operate(name, false)}
          >
            <span
              className={`block size-8 rounded-full border-2 border-quiet ${down ? 'translate-y-px bg-quiet' : 'bg-raised shadow'}`}
            />
            <span className="leading-tight">{label}</span>
          </button>
        ))}
      </div>
      <div className="mt-3 grid grid-cols-4 gap-1">
        {panel.switches.map(({ name, label, on }) => (
          <Switch.Root
            key={name}
            checked={on}
            aria-label={`Switch ${name}, ${label}`}
            className="flex flex-col items-center gap-1 text-xs"
            onCheckedChange={(next) => operate(name, next)}
          >
            <span className="flex h-9 w-4 flex-col rounded-[3px] border border-quiet bg-raised p-0.5">
              <Switch.Thumb className={`block h-3.5 w-full rounded-[2px] ${on ? 'bg-signal' : 'mt-auto bg-quiet'}`} />
            </span>
            <span className="leading-tight">{label}</span>
          </Switch.Root>
        ))}
      </div>
      {reset && (
        <p className="mt-3 text-quiet text-xs">
          Button {reset.label} ({reset.name}) only starts the design’s registers anew. Reconfigure empties the FPGA and
          reads the flash again: what was loaded and not kept is gone.
        </p>
      )}
      <p className="tabular mt-2 text-quiet text-xs">
        {panel.oscillators.map(({ name, hz }) => `${name} ${frequency(hz)}`).join(' · ')}
        <br />
        <span data-testid="board-speed">
          {panel.speed > 0.98 ? 'in real time' : `at ${Math.round(panel.speed * 100)} % of real time`}
        </span>
      </p>
    </div>
  );
}
