'use client';
import { Maximize2, Target, ZoomIn, ZoomOut } from 'lucide-react';
import type { ReactNode } from 'react';
import type { GapStyle } from '../../core/wave/index.ts';
import { Button, Select } from '../shared/index.ts';
import { Cursors } from './cursors.tsx';
import type { Waves } from './use-waves.ts';

interface Props {
  readonly waves: Waves;
  readonly gaps: GapStyle;
  readonly onGaps: (gaps: GapStyle) => void;
}

/** Where one looks: closer, wider, to the trigger, from edge to edge; and the cursors. */
export function Toolbar({ waves, gaps, onGaps }: Props) {
  const { axis, zoom, edge } = waves;
  return (
    <div className="flex flex-wrap items-center gap-1 border-line border-b px-2 py-1 text-sm">
      <Tool label="Zoom in" keys="+" onPress={zoom.closer}>
        <ZoomIn className="size-4" />
      </Tool>
      <Tool label="Zoom out" keys="-" onPress={zoom.wider}>
        <ZoomOut className="size-4" />
      </Tool>
      <Tool keys="f" onPress={zoom.toWhole}>
        <Maximize2 aria-hidden className="size-4" /> Whole record
      </Tool>
      <Tool keys="t" onPress={zoom.toTrigger} disabled={axis.triggers.length === 0}>
        <Target aria-hidden className="size-4" /> Trigger
      </Tool>
      <Tool label="Previous edge" keys="E: the chosen row's last edge before the cursor" onPress={() => edge(false)}>
        ‹ Edge
      </Tool>
      <Tool label="Next edge" keys="e: the chosen row's next edge" onPress={() => edge(true)}>
        Edge ›
      </Tool>
      {axis.stored && (
        <Select aria-label="Gaps" value={gaps} onPick={onGaps}>
          <option value="short">gaps drawn short</option>
          <option value="true">gaps as long as they were</option>
        </Select>
      )}
      <Cursors waves={waves} />
    </div>
  );
}

interface ToolProps {
  readonly label?: string;
  /** The key that does the same. */
  readonly keys: string;
  readonly disabled?: boolean;
  readonly onPress: () => void;
  readonly children: ReactNode;
}

function Tool({ label, keys, disabled = false, onPress, children }: ToolProps) {
  return (
    <Button look="quiet" className="h-7 px-1.5!" title={keys} aria-label={label} disabled={disabled} onClick={onPress}>
      {children}
    </Button>
  );
}
