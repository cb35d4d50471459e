'use client';
import { type DragEvent, type ReactNode, useState } from 'react';
import { isDescription } from './descriptions.ts';

interface Props {
  /** What may be dropped here, in words. */
  readonly what: string;
  readonly disabled: boolean;
  readonly onFiles: (files: readonly File[]) => void;
  readonly children: ReactNode;
}

/** A station that takes files by drag and drop, and says so while one hangs over it. */
export function FileDrop({ what, disabled, onFiles, children }: Props) {
  const [over, setOver] = useState(false);
  const has = (event: DragEvent) => event.dataTransfer.types.includes('Files');
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is a second way to what the button does
    <div
      className="relative min-h-full"
      data-testid="file-drop"
      onDragOver={(event) => {
        if (!has(event)) return;
        event.preventDefault();
        setOver(!disabled);
      }}
      onDragLeave={(event) => !event.currentTarget.contains(event.relatedTarget as Node | null) && setOver(false)}
      onDrop={(event) => {
        if (!has(event)) return;
        event.preventDefault();
        setOver(false);
        // Descriptions of devices are taken everywhere on the page, by whoever listens to it as a whole.
        const own = [...event.dataTransfer.files].filter((file) => !isDescription(file));
        if (!disabled && own.length > 0) onFiles(own);
      }}
    >
      {children}
      {over && (
        <p className="pointer-events-none absolute inset-x-0 top-0 border-2 border-signal border-dashed bg-raised px-4 py-6 text-center">
          Drop {what} here.
        </p>
      )}
    </div>
  );
}
