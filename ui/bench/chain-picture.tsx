import type { FoundDevice } from '../../core/jtag/index.ts';

/** The chain as it is wired: TDI on the left, TDO on the right, so place 0 stands last. */
export function ChainPicture({ devices }: { readonly devices: readonly FoundDevice[] }) {
  return (
    <div className="mb-3 flex items-center overflow-x-auto py-1 text-sm" role="img" aria-label={`Chain from TDI to TDO: ${[...devices].reverse().map((d) => d.part ?? 'unknown').join(', ')}`}>
      <span className="tabular pr-2 text-quiet">TDI</span>
      {[...devices].reverse().map((device) => (
        <div key={device.index} className="flex items-center">
          <span className="h-0.5 w-6 bg-quiet" />
          <div className="border border-ink bg-raised px-4 py-2 text-center">
            <div className="font-bold">{device.part ?? 'unknown'}</div>
            <div className="tabular text-quiet text-xs">place {device.index}</div>
          </div>
        </div>
      ))}
      <span className="h-0.5 w-6 bg-quiet" />
      <span className="tabular pl-2 text-quiet">TDO</span>
    </div>
  );
}
