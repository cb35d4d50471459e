'use client';
import { PlugZap, RotateCw, Save, Search } from 'lucide-react';
import { Button, useStart, useLatestJob, useLive } from '../../shared/index.ts';

/** Asking the board, and the one thing the station is for. */
export function WriteActions({ asking, onAsk }: { readonly asking: boolean; readonly onAsk: () => void }) {
  const state = useLive('pod');
  const start = useStart();
  const job = useLatestJob('keep', 'power', 'flash');
  const off = job?.endedAt === null || state?.pod.state !== 'connected';
  const can = state?.pod.capabilities;
  return (
    <>
      <Button
        disabled={off}
        title="Asks the chip and checks everything; changes nothing"
        onClick={() => start({ kind: 'flash' })}
      >
        <Search aria-hidden className="size-4" /> Look first
      </Button>
      <Button
        disabled={off}
        title={
          can?.power
            ? 'Takes the supply away for a moment, waits for DONE and compares fingerprints'
            : 'Asks you to switch the board off and on, waits for DONE and compares fingerprints'
        }
        onClick={() => start({ kind: 'rehearse', by: 'power' })}
      >
        <PlugZap aria-hidden className="size-4" /> Power-cycle
      </Button>
      {can?.reconfigure && (
        <Button
          disabled={off}
          title="Pulls the reconfigure wire: the FPGA reads its flash again, everything else goes on"
          onClick={() => start({ kind: 'rehearse', by: 'reconfigure' })}
        >
          <RotateCw aria-hidden className="size-4" /> Reconfigure
        </Button>
      )}
      <Button look="main" disabled={off || asking} onClick={onAsk}>
        <Save aria-hidden className="size-4" /> Write flash
      </Button>
    </>
  );
}
