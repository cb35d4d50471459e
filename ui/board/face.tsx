import { clsx } from 'clsx';
import type { PodCapabilities } from '../../core/pod/index.ts';
import { api, Button, Segmented, useAct, useBoard, useLive, usePowered } from '../shared/index.ts';
import { Lamp } from './lamp.tsx';
import { Parts } from './parts.tsx';

const RECONFIGURE = 'Empties the FPGA and lets it read its flash again. The design’s own reset button does not.';

/** The board beside the cable: what the cable and the FPGA say of it, and what its pod shows and can switch. */
export function Face() {
  const board = useBoard();
  const can = useLive('pod')?.pod.capabilities ?? null;
  if (!board || !can)
    return (
      <p className="border border-line border-dashed p-4 text-center text-quiet text-sm">
        No pod is connected. See Bench.
      </p>
    );
  return (
    <div className="rounded-[6px] border border-quiet bg-well p-3" data-testid="board-face">
      <Supply can={can} />
      <Boot can={can} />
      {board.view ? (
        <Parts view={board.view} speed={board.speed} />
      ) : (
        <p className="text-quiet text-xs">
          This pod has a cable and no eyes: lamps, buttons and switches are on the board in front of you.
        </p>
      )}
    </div>
  );
}

/** Supply as the reference wire says, DONE as the FPGA was last heard to say. */
function Supply({ can }: { readonly can: PodCapabilities }) {
  const powered = usePowered() === true;
  const volts = useBoard()?.cable.referenceVolts ?? null;
  const done = useLive('running')?.running?.done === true;
  const { act } = useAct();
  return (
    <div className="mb-3 flex items-start justify-between gap-2">
      <Lamp label="power" level={powered ? 1 : 0} tone="good" testId="lamp-power" />
      <Lamp label="DONE" level={done ? 1 : 0} tone="good" testId="lamp-done" />
      {can.power ? (
        <Button
          className="h-7! px-2!"
          onClick={() => act(() => api.jobs.start.mutate({ kind: 'power', on: !powered }))}
        >
          {powered ? 'Power off' : 'Power on'}
        </Button>
      ) : (
        <p className="tabular max-w-32 text-right text-quiet text-xs">
          {volts === null
            ? 'Supply not measured: this pod has no wire for it.'
            : `${volts.toFixed(1)} V at the reference pin.`}{' '}
          Its switch is on the board.
        </p>
      )}
    </div>
  );
}

const SOURCES = [
  { value: 'flash', name: 'flash' },
  { value: 'jtag', name: 'JTAG' },
] as const;

/** Where the FPGA looks at power-on: set here where the pod can, shown as its status register says. */
function Boot({ can }: { readonly can: PodCapabilities }) {
  const state = useLive('running', 'kept', 'rehearsal');
  const { act } = useAct();
  const view = useBoard()?.view;
  const selector = view?.parts.find((part) => part.kind === 'selector' && part.name === 'boot');
  const said = state?.running?.status?.bootSource ?? null;
  const position = selector?.kind === 'selector' ? selector.position : said;
  const kept = (state?.kept ?? null) !== null || state?.rehearsal?.status.bootSource === 'jtag';
  const isWrong = said === 'jtag' && kept;
  if (!can.bootSwitch && !can.reconfigure && said === null) return null;
  return (
    <>
      <div
        className={clsx(
          'mb-3 flex items-center gap-1.5 text-sm',
          isWrong && 'rounded-[3px] outline-2 outline-doubt outline-offset-4',
        )}
        data-testid="boot-switch"
      >
        <span className={isWrong ? 'font-bold text-doubt' : 'text-quiet'}>Boot</span>
        {can.bootSwitch ? (
          <Segmented
            label="Boot source"
            value={position === 'flash' || position === 'jtag' ? position : null}
            choices={SOURCES}
            onChoose={(source) => act(() => api.bench.setBootSource.mutate({ source }))}
          />
        ) : (
          <span>{said === null ? 'not asked' : said === 'flash' ? 'from flash' : 'from JTAG alone'}</span>
        )}
        {can.reconfigure && (
          <Button
            title={RECONFIGURE}
            className="ml-auto h-6! px-1.5!"
            onClick={() => act(() => api.bench.reconfigure.mutate())}
          >
            Reconfigure
          </Button>
        )}
      </div>
      {isWrong && (
        <p className="mb-3 text-doubt text-xs">
          The flash holds a design, but the switch stands at JTAG: nothing boots. Set it to flash.
        </p>
      )}
    </>
  );
}
