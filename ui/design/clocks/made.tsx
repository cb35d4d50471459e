'use client';
import type { GeneratorUse } from '../../../core/build/index.ts';
import type { BuildDetails } from '../../../server/index.ts';
import { frequency, TextButton } from '../../shared/index.ts';
import { useOpenSource } from '../places.ts';

type ClockTiming = NonNullable<BuildDetails['timing']>['clocks'][number];

interface MadeProps {
  readonly use: GeneratorUse;
  /** Hertz of the clock that it takes; null where nobody knows. */
  readonly hertz: number | null;
  readonly timing: (clock: string) => ClockTiming | undefined;
}

/** The clocks that one generator makes, as rows of the table of clocks. */
export function MadeClocks({ use, hertz, timing }: MadeProps) {
  const show = useOpenSource();
  const { file, line, input, setting, outputs } = use;
  return outputs.map(({ clock, divider }) => {
    const { highest = null, worstSlack = null } = timing(clock) ?? {};
    const over = setting.divide * divider;
    return (
      <tr key={clock} className="border-line border-t">
        <td className="code px-2 py-1">{clock}</td>
        <td className="px-2 py-1 text-quiet">inside</td>
        <td className="tabular px-2 py-1">
          {input ?? 'no pin'} × {setting.multiply} / {over},{' '}
          <TextButton onClick={() => show({ file, line })}>
            {file}:{line}
          </TextButton>
        </td>
        <td className="tabular px-2 py-1">
          {hertz === null ? `as ${input ?? 'its clock'} runs` : frequency((hertz * setting.multiply) / over)}
        </td>
        <td className="tabular px-2 py-1">{highest === null ? '–' : frequency(highest)}</td>
        <td className={`tabular px-2 py-1 ${worstSlack !== null && worstSlack < 0 ? 'font-bold text-bad' : ''}`}>
          {worstSlack === null ? '–' : `${worstSlack.toFixed(2)} ns`}
        </td>
      </tr>
    );
  });
}
