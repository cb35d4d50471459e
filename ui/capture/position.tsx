'use client';
import { Slider } from 'radix-ui';

interface Props {
  /** Samples of one segment, and how many of them come before the trigger. */
  readonly size: number;
  readonly before: number;
  readonly segments: number;
  readonly disabled: boolean;
  readonly onBefore: (before: number) => void;
}

/** Longer buffers than this are drawn without their flags, which would touch. */
const MOST_FLAGS = 8;

/** The buffer to scale: the flag of the first segment is dragged where the trigger shall be; the others follow. */
export function TriggerPosition({ size, before, segments, disabled, onBefore }: Props) {
  const after = size - 1 - before;
  return (
    <div className="w-64 text-sm">
      <span className="tabular mb-1 block whitespace-nowrap text-quiet">
        {before.toLocaleString('en')} before, {after.toLocaleString('en')} after
        {segments > 1 ? `, ${segments} times` : ''}
      </span>
      <div className="flex h-8 border border-line bg-raised">
        <Slider.Root
          data-testid="trigger-position"
          className="relative flex h-full flex-1 cursor-ew-resize touch-none data-[disabled]:cursor-default"
          value={[before]}
          min={0}
          max={size - 1}
          disabled={disabled}
          onValueChange={([next]) => next !== undefined && onBefore(next)}
        >
          <Slider.Track className="relative h-full w-full">
            <Slider.Range className="absolute h-full bg-well" />
          </Slider.Track>
          <Slider.Thumb aria-label="Trigger position" className="block h-7.5 w-0.5 bg-signal">
            {segments <= MOST_FLAGS && <span className="absolute top-0 left-0 size-2 bg-signal" />}
          </Slider.Thumb>
        </Slider.Root>
        {Array.from({ length: segments - 1 }, (_, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: segments have no other name than their place
          <Follower key={i} share={before / size} hasFlag={segments <= MOST_FLAGS} />
        ))}
      </div>
    </div>
  );
}

function Follower({ share, hasFlag }: { readonly share: number; readonly hasFlag: boolean }) {
  const left = `${share * 100}%`;
  return (
    <div className="relative h-full flex-1 border-line border-l" aria-hidden>
      <div className="absolute inset-y-0 left-0 bg-well" style={{ width: left }} />
      <div className="absolute inset-y-0 w-0.5 bg-signal" style={{ left }} />
      {hasFlag && <div className="absolute top-0 size-2 bg-signal" style={{ left }} />}
    </div>
  );
}
