import type { BuildDetails } from '../../../server/index.ts';
import { frequency } from '../../shared/index.ts';

export type ClockTiming = NonNullable<BuildDetails['timing']>['clocks'][number];

/** The cells of a clock's row that say how fast it could run, and what is to spare at what is wanted. */
export function Reached({ timing }: { readonly timing: ClockTiming | undefined }) {
  const { highest = null, worstSlack = null } = timing ?? {};
  return (
    <>
      <td className="tabular px-2 py-1">{highest === null ? '–' : frequency(highest)}</td>
      <td className={`tabular px-2 py-1 ${worstSlack !== null && worstSlack < 0 ? 'font-bold text-bad' : ''}`}>
        {worstSlack === null ? '–' : `${worstSlack.toFixed(2)} ns`}
      </td>
    </>
  );
}
