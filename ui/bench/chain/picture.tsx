import { clsx } from 'clsx';
import type { ChainRow } from '../../../core/chain/index.ts';
import type { FoundDevice } from '../../../core/jtag/index.ts';

/**
 * The chain as it is wired: TDI on the left, TDO on the right, so place 0 stands last. What is not expected has a
 * broken frame.
 */
export function ChainPicture({
  devices,
  rows,
}: {
  readonly devices: readonly FoundDevice[];
  readonly rows: readonly ChainRow[] | null;
}) {
  const odd = new Set(rows?.filter((row) => row.kind !== 'same').map((row) => row.found));
  return (
    <div
      className="mb-3 flex flex-wrap items-center gap-y-2 py-1 text-sm"
      role="img"
      aria-label={`Chain from TDI to TDO: ${[...devices]
        .reverse()
        .map((d) => d.part ?? 'unknown')
        .join(', ')}`}
    >
      <span className="tabular pr-2 text-quiet">TDI</span>
      {[...devices].reverse().map((device) => (
        <div key={device.index} className="flex items-center">
          <span className="h-0.5 w-5 bg-quiet" />
          <div
            className={clsx(
              'border bg-raised px-3 py-1.5 text-center',
              odd.has(device.index) ? 'border-doubt border-dashed' : 'border-ink',
            )}
          >
            <div className="font-bold">{device.part ?? 'unknown'}</div>
            <div className="tabular text-quiet text-xs">place {device.index}</div>
          </div>
        </div>
      ))}
      <span className="h-0.5 w-5 bg-quiet" />
      <span className="tabular pl-2 text-quiet">TDO</span>
    </div>
  );
}
