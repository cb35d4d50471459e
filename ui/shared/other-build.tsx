import { shortPrint } from './format.ts';
import { useLive } from './live.tsx';

/** Says which build is on the board where it is not the one that is spoken to; nothing where it is. */
export function OtherBuild({ wanted, what }: { readonly wanted: string | undefined; readonly what: string }) {
  const running = useLive('running')?.running;
  if (!wanted || running?.fingerprint === wanted) return null;
  return (
    <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">
      {!running ? (
        'What the board runs was not asked'
      ) : running.fingerprint ? (
        <>The board runs build {shortPrint(running.fingerprint)}</>
      ) : (
        'The FPGA is empty'
      )}
      , {what} to build {shortPrint(wanted)}. Load it under Load.
    </p>
  );
}
