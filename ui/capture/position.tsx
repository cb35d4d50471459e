'use client';
import { type KeyboardEvent, type PointerEvent, useRef } from 'react';

interface Props {
  /** Samples of one segment, and how many of them come before the trigger. */
  readonly size: number;
  readonly before: number;
  readonly segments: number;
  readonly disabled: boolean;
  readonly onBefore: (before: number) => void;
}

/** The buffer to scale: the flag stands where the trigger will, and is dragged there. */
export function TriggerPosition({ size, before, segments, disabled, onBefore }: Props) {
  const strip = useRef<HTMLDivElement>(null);
  const drag = ({ clientX, buttons, type }: PointerEvent) => {
    if (disabled || !strip.current || (type === 'pointermove' && buttons === 0)) return;
    const { left, width } = strip.current.getBoundingClientRect();
    const inFirst = ((clientX - left) / width) * segments;
    onBefore(
      Math.min(
        size - 1,
        Math.max(0, Math.round((inFirst - Math.floor(Math.min(segments - 1, Math.max(0, inFirst)))) * size)),
      ),
    );
  };
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -1, ArrowRight: 1, PageDown: -Math.round(size / 10), PageUp: Math.round(size / 10) }[
      event.key
    ];
    const to =
      event.key === 'Home'
        ? 0
        : event.key === 'End'
          ? size - 1
          : step === undefined
            ? null
            : before + step * (event.shiftKey ? 16 : 1);
    if (to === null || disabled) return;
    event.preventDefault();
    onBefore(Math.min(size - 1, Math.max(0, to)));
  };
  return (
    <div className="w-64 text-sm">
      <span className="tabular mb-1 block whitespace-nowrap text-quiet">
        {before.toLocaleString('en')} before, {(size - 1 - before).toLocaleString('en')} after
        {segments > 1 ? `, ${segments} times` : ''}
      </span>
      <div
        ref={strip}
        role="slider"
        tabIndex={disabled ? -1 : 0}
        aria-label="Trigger position"
        aria-valuemin={0}
        aria-valuemax={size - 1}
        aria-valuenow={before}
        aria-disabled={disabled}
        className="relative flex h-8 cursor-ew-resize touch-none border border-line bg-raised"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          drag(event);
        }}
        onPointerMove={drag}
        onKeyDown={onKey}
      >
        {Array.from({ length: segments }, (_, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: segments have no other name than their place
          <div key={i} className="relative h-full flex-1 border-line border-r last:border-r-0">
            <div className="absolute inset-y-0 left-0 bg-well" style={{ width: `${(before / size) * 100}%` }} />
            <div className="absolute inset-y-0 w-0.5 bg-signal" style={{ left: `${(before / size) * 100}%` }} />
            {segments <= 8 && (
              <div className="absolute top-0 size-2 bg-signal" style={{ left: `${(before / size) * 100}%` }} />
            )}
          </div>
        ))}
      </div>
    </div>
  );
}
