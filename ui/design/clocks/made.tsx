'use client';
import type { GeneratorUse } from '../../../core/build/index.ts';
import { frequency, TextButton } from '../../shared/index.ts';
import { useOpenSource } from '../places.ts';
import { type ClockTiming, Reached } from './reached.tsx';

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
        <Reached timing={timing(clock)} />
      </tr>
    );
  });
}
