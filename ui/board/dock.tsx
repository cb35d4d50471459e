'use client';
import { clsx } from 'clsx';
import { PanelRightClose, PanelRightOpen } from 'lucide-react';
import { useEffect, useState } from 'react';
import { dateTime, shortPrint, useLive, usePowered, IconButton } from '../shared/index.ts';
import { Face } from './face.tsx';

export function BoardDock() {
  const [open, setOpen] = useDock();
  if (!open)
    return (
      <aside className="shrink-0 border-line border-l bg-raised p-2" aria-label="Board">
        <IconButton onClick={() => setOpen(true)} label="Unfold the board">
          <PanelRightOpen className="size-4" />
        </IconButton>
      </aside>
    );
  return (
    <aside
      className="flex w-[19rem] shrink-0 flex-col overflow-auto border-line border-l bg-raised px-4 py-3"
      aria-label="Board"
    >
      <div className="flex items-baseline">
        <BoardName />
        <IconButton className="ml-auto" onClick={() => setOpen(false)} label="Fold the board away">
          <PanelRightClose className="size-4" />
        </IconButton>
      </div>
      <Memory />
      <Face />
    </aside>
  );
}

/** In a narrow window the board is folded away until somebody wants it, so that the station has its place. */
const NARROW = '(max-width: 1180px)';

function useDock(): [open: boolean, setOpen: (open: boolean) => void] {
  const [wanted, setWanted] = useState<boolean | null>(null);
  const [isNarrow, setNarrow] = useState(false);
  useEffect(() => {
    const narrow = window.matchMedia(NARROW);
    const follow = () => setNarrow(narrow.matches);
    follow();
    narrow.addEventListener('change', follow);
    return () => narrow.removeEventListener('change', follow);
  }, []);
  return [wanted ?? !isNarrow, setWanted];
}

function BoardName() {
  const pod = useLive('pod')?.pod;
  return <h2 className="font-bold text-lg">{pod?.name ?? 'No board'}</h2>;
}

/** What runs, and whether it would survive the night. */
function Memory() {
  const state = useLive('running', 'kept', 'usedBy');
  const powered = usePowered();
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
          ? asked.done
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
          : asked.done
            ? 'DONE is high'
            : 'the FPGA is empty';
  return (
    <div className="mb-3 text-sm">
      <dl>
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
      </dl>
      <p className={isKept ? 'text-good' : running ? 'text-doubt' : 'text-quiet'} data-testid="dock-kept">
        {sentence}
      </p>
    </div>
  );
}
