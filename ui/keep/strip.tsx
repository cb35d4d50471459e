'use client';
import { clsx } from 'clsx';
import { type PointerEvent, useRef } from 'react';
import { named, pieces, type StripPlace } from './places.ts';
import type { RefObject } from 'react';

interface Props {
  readonly size: number;
  readonly sectorBytes: number;
  readonly places: readonly StripPlace[];
  readonly label: string;
  /** What is to happen to sectors. */
  readonly sectors?: readonly { readonly address: number; readonly action: 'keep' | 'program' | 'erase' }[];
  /** Indices of places that cannot stand where they are. */
  readonly wrong?: ReadonlySet<number>;
  /** A place is being moved; the address is a whole sector. */
  readonly onMove?: (index: number, start: number) => void;
  readonly onMoved?: () => void;
}

const ROWS = 8;
const ROW_HEIGHT = 30;
const WIDTH = 1024;
const FILL: Readonly<Record<StripPlace['role'], string>> = {
  image: 'var(--color-ink)',
  golden: 'var(--color-good)',
  update: 'var(--color-signal)',
  data: 'var(--color-quiet)',
  header: 'var(--color-doubt)',
};
const HEIGHT = { keep: 3, program: 10, erase: 20 } as const;

/** A whole memory to scale, folded into rows; every thin line is a sector. */
export function Strip({ size, sectorBytes, places, label, sectors = [], wrong, onMove, onMoved }: Props) {
  const drawing = useRef<SVGSVGElement>(null);
  const held = useRef<{ readonly index: number; readonly offset: number } | null>(null);
  const rowBytes = Math.ceil(size / ROWS / sectorBytes) * sectorBytes;
  const rows = Math.ceil(size / rowBytes);
  const scale = WIDTH / rowBytes;
  const addressAt = (event: PointerEvent): number => {
    const box = drawing.current?.getBoundingClientRect();
    if (!box) return 0;
    const row = Math.max(0, Math.min(rows - 1, Math.floor(((event.clientY - box.top) / box.height) * rows)));
    return row * rowBytes + Math.max(0, Math.min(1, (event.clientX - box.left) / box.width)) * rowBytes;
  };
  const grab = (event: PointerEvent<SVGElement>, index: number, start: number) => {
    if (!onMove) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = { index, offset: addressAt(event) - start };
  };
  const move = (event: PointerEvent) => {
    if (!held.current || !onMove) return;
    const start = Math.round((addressAt(event) - held.current.offset) / sectorBytes) * sectorBytes;
    onMove(held.current.index, Math.max(0, Math.min(size - sectorBytes, start)));
  };
  const drop = () => {
    if (held.current) onMoved?.();
    held.current = null;
  };
  return (
    <div className="flex gap-2">
      <div className="code shrink-0 text-right text-quiet text-xs" aria-hidden>
        {Array.from({ length: rows }, (_, row) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
          <div key={row} style={{ height: ROW_HEIGHT, lineHeight: `${ROW_HEIGHT}px` }}>
            {(row * rowBytes).toString(16).toUpperCase().padStart(6, '0')}
          </div>
        ))}
      </div>
      <div className="relative min-w-0 flex-1">
        <StripPicture
          drawing={drawing}
          rows={rows}
          label={label}
          move={move}
          drop={drop}
          rowBytes={rowBytes}
          sectorBytes={sectorBytes}
          scale={scale}
          places={places}
          onMove={onMove}
          wrong={wrong}
          grab={grab}
          size={size}
          sectors={sectors}
        />
        {named(places, rowBytes, size).map(({ place, index }) => (
          <Name key={index} place={place} rowBytes={rowBytes} size={size} />
        ))}
      </div>
    </div>
  );
}

interface StripPictureProps {
  readonly drawing: RefObject<SVGSVGElement | null>;
  readonly rows: number;
  readonly label: string;
  readonly move: (event: PointerEvent) => void;
  readonly drop: () => void;
  readonly rowBytes: number;
  readonly sectorBytes: number;
  readonly scale: number;
  readonly places: readonly StripPlace[];
  readonly onMove: ((index: number, start: number) => void) | undefined;
  readonly wrong: ReadonlySet<number> | undefined;
  readonly grab: (event: PointerEvent<SVGElement>, index: number, start: number) => void;
  readonly size: number;
  readonly sectors: readonly { readonly address: number; readonly action: 'keep' | 'program' | 'erase' }[];
}

function StripPicture({
  drawing,
  rows,
  label,
  move,
  drop,
  rowBytes,
  sectorBytes,
  scale,
  places,
  onMove,
  wrong,
  grab,
  size,
  sectors,
}: StripPictureProps) {
  return (
    <svg
      ref={drawing}
      viewBox={`0 0 ${WIDTH} ${rows * ROW_HEIGHT}`}
      preserveAspectRatio="none"
      style={{ height: rows * ROW_HEIGHT }}
      className="w-full touch-none border border-line bg-raised"
      role="img"
      aria-label={label}
      data-testid="strip"
      onPointerMove={move}
      onPointerUp={drop}
      onPointerCancel={drop}
    >
      {Array.from({ length: rows }, (_, row) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
        <RowLines key={row} row={row} rowBytes={rowBytes} sectorBytes={sectorBytes} scale={scale} />
      ))}
      {places.map((place, index) => (
        <PlaceBlock
          // biome-ignore lint/suspicious/noArrayIndexKey: two places may be alike in all but where they stand
          key={index}
          index={index}
          onMove={onMove}
          place={place}
          wrong={wrong}
          grab={grab}
          rowBytes={rowBytes}
          size={size}
          scale={scale}
        />
      ))}
      {sectors.map(({ address, action }) => (
        <rect
          key={address}
          x={(address % rowBytes) * scale}
          y={Math.floor(address / rowBytes) * ROW_HEIGHT + ROW_HEIGHT - 2 - HEIGHT[action]}
          width={sectorBytes * scale * 0.8}
          height={HEIGHT[action]}
          fill="var(--color-paper)"
          stroke="var(--color-ink)"
          strokeWidth={0.5}
          vectorEffect="non-scaling-stroke"
          pointerEvents="none"
        />
      ))}
    </svg>
  );
}

interface PlaceBlockProps {
  readonly index: number;
  readonly onMove: ((index: number, start: number) => void) | undefined;
  readonly place: StripPlace;
  readonly wrong: ReadonlySet<number> | undefined;
  readonly grab: (event: PointerEvent<SVGElement>, index: number, start: number) => void;
  readonly rowBytes: number;
  readonly size: number;
  readonly scale: number;
}

function PlaceBlock({ index, onMove, place, wrong, grab, rowBytes, size, scale }: PlaceBlockProps) {
  return (
    <g
      className={clsx(onMove && place.role !== 'header' && 'cursor-grab')}
      opacity={wrong?.has(index) ? 0.55 : 1}
      data-place={place.name}
      onPointerDown={(event) => place.role !== 'header' && grab(event, index, place.start)}
    >
      {pieces(place, rowBytes, size).map(({ row, from, to }) => (
        <rect
          key={row}
          x={from * scale}
          y={row * ROW_HEIGHT + 6}
          width={Math.max(3, (to - from) * scale)}
          height={ROW_HEIGHT - 12}
          fill={FILL[place.role]}
          stroke={wrong?.has(index) ? 'var(--color-bad)' : 'none'}
          strokeWidth={3}
          strokeDasharray="5 4"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      <title>
        {`${place.name}: 0x${place.start.toString(16).toUpperCase()} to ` +
          `0x${(place.end - 1).toString(16).toUpperCase()}`}
      </title>
    </g>
  );
}

interface RowLinesProps {
  readonly row: number;
  readonly rowBytes: number;
  readonly sectorBytes: number;
  readonly scale: number;
}

function RowLines({ row, rowBytes, sectorBytes, scale }: RowLinesProps) {
  return (
    <g>
      {Array.from({ length: Math.floor(rowBytes / sectorBytes) }, (_, k) => (
        <line
          // biome-ignore lint/suspicious/noArrayIndexKey: a sector is its place
          key={k}
          x1={k * sectorBytes * scale}
          x2={k * sectorBytes * scale}
          y1={row * ROW_HEIGHT}
          y2={(row + 1) * ROW_HEIGHT}
          stroke="var(--color-line)"
          strokeWidth={k % 16 === 0 ? 1.2 : 0.4}
        />
      ))}
      <line
        x1={0}
        x2={WIDTH}
        y1={row * ROW_HEIGHT}
        y2={row * ROW_HEIGHT}
        stroke="var(--color-quiet)"
        strokeWidth={0.6}
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}

/** A block's name: on it where there is room, else beside it. */
function Name({
  place,
  rowBytes,
  size,
}: {
  readonly place: StripPlace;
  readonly rowBytes: number;
  readonly size: number;
}) {
  const [first] = pieces(place, rowBytes, size);
  if (!first) return null;
  const [from, to] = [first.from / rowBytes, first.to / rowBytes];
  const inside = to - from > 0.16;
  const left = !inside && to > 0.8;
  return (
    <span
      className={clsx(
        'pointer-events-none absolute truncate px-1 text-xs',
        inside && place.role !== 'header' ? 'text-raised' : 'text-ink',
      )}
      style={{
        top: first.row * ROW_HEIGHT,
        lineHeight: `${ROW_HEIGHT}px`,
        maxWidth: inside ? `${(to - from) * 100}%` : '20%',
        ...(left ? { right: `${(1 - from) * 100}%` } : { left: `${(inside ? from : to) * 100}%` }),
      }}
    >
      {place.name}
    </span>
  );
}
