'use client';
import { clsx } from 'clsx';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import type { PlacedDrawing, PlacedEdge, PlacedNode } from './layout.ts';
import type { RefObject } from 'react';
import type { Dispatch } from 'react';
import type { SetStateAction } from 'react';

interface Props {
  readonly drawing: PlacedDrawing;
  readonly chosen: string | null;
  readonly onChoose: (id: string) => void;
  /** Each time that it grows the whole drawing is shown. */
  readonly asWhole: number;
}

interface Frame {
  readonly x: number;
  readonly y: number;
  readonly scale: number;
}

const LEAST_SCALE = 0.015;
const MOST_SCALE = 3;
/** A drawing that would be smaller than this as a whole opens at one place in it: letters are to be read. */
const READABLE_SCALE = 0.85;
const PLACE_SCALE = 0.95;
const EDGE = 12;

/** The drawing on a sheet that moves and zooms. Lines of the chosen box stand out. */
export function Canvas({ drawing, chosen, onChoose, asWhole }: Props) {
  const host = useRef<SVGSVGElement>(null);
  const [frame, setFrame] = useState<Frame | null>(null);
  const drag = useRef<{ x: number; y: number; frame: Frame } | null>(null);
  const at = useRef(chosen);
  at.current = chosen;
  const placed = useRef(drawing);
  placed.current = drawing;
  useEffect(() => {
    const box = host.current?.getBoundingClientRect();
    if (!box) return;
    // What is opened in place is looked at where it stands, as large as before.
    const opened = drawing.nodes.find(({ node }) => node.id === at.current);
    setFrame((old) => (old && opened ? around(opened, box, old.scale) : firstFrame(drawing, box)));
  }, [drawing]);
  useEffect(() => {
    const svg = host.current;
    if (!svg) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = svg.getBoundingClientRect();
      const [px, py] = [event.clientX - box.left, event.clientY - box.top];
      setFrame((old) => {
        if (!old) return old;
        const scale = Math.min(MOST_SCALE, Math.max(LEAST_SCALE, old.scale * Math.exp(-event.deltaY * 0.0015)));
        const by = scale / old.scale;
        return { scale, x: px - (px - old.x) * by, y: py - (py - old.y) * by };
      });
    };
    svg.addEventListener('wheel', onWheel, { passive: false });
    return () => svg.removeEventListener('wheel', onWheel);
  }, []);
  const near = useMemo(() => {
    const ports = new Set(drawing.nodes.find((n) => n.node.id === chosen)?.ports.map((port) => port.id) ?? []);
    return new Set(drawing.edges.filter((edge) => ports.has(edge.from) || ports.has(edge.to)).map((edge) => edge.id));
  }, [drawing, chosen]);
  useEffect(() => {
    const box = host.current?.getBoundingClientRect();
    if (box && asWhole > 0) setFrame(wholeFrame(placed.current, box));
  }, [asWhole]);
  return (
    <Picture
      host={host}
      frame={frame}
      drag={drag}
      setFrame={setFrame}
      drawing={drawing}
      onChoose={onChoose}
      near={near}
      chosen={chosen}
    />
  );
}

interface PictureProps {
  readonly host: RefObject<SVGSVGElement | null>;
  readonly frame: Frame | null;
  readonly drag: RefObject<{ x: number; y: number; frame: Frame } | null>;
  readonly setFrame: Dispatch<SetStateAction<Frame | null>>;
  readonly drawing: PlacedDrawing;
  readonly onChoose: (id: string) => void;
  readonly near: Set<string>;
  readonly chosen: string | null;
}

function Picture({ host, frame, drag, setFrame, drawing, onChoose, near, chosen }: PictureProps) {
  return (
    <svg
      ref={host}
      className="absolute inset-0 h-full w-full cursor-grab touch-none active:cursor-grabbing"
      aria-label="Schematic"
      onPointerDown={(event) => {
        if (!frame) return;
        drag.current = { x: event.clientX, y: event.clientY, frame };
      }}
      onPointerMove={(event) => {
        const from = drag.current;
        if (from && event.buttons === 1)
          setFrame({
            ...from.frame,
            x: from.frame.x + event.clientX - from.x,
            y: from.frame.y + event.clientY - from.y,
          });
      }}
      onPointerUp={() => {
        drag.current = null;
      }}
    >
      {frame && (
        <g transform={`translate(${frame.x} ${frame.y}) scale(${frame.scale})`}>
          <Boxes drawing={drawing} open onChoose={onChoose} />
          <Lines edges={drawing.edges} />
          <Boxes drawing={drawing} open={false} onChoose={onChoose} />
          <Lines edges={drawing.edges.filter((edge) => near.has(edge.id))} bright />
          {drawing.nodes
            .filter((n) => n.node.id === chosen)
            .map((n) => (
              <rect
                key={n.node.id}
                x={n.x}
                y={n.y}
                width={n.width}
                height={n.height}
                fill="none"
                stroke="var(--color-signal)"
                strokeWidth="2.5"
                pointerEvents="none"
              />
            ))}
        </g>
      )}
    </svg>
  );
}

function wholeFrame(drawing: PlacedDrawing, box: DOMRect): Frame {
  const scale = Math.min(1.1, Math.max(LEAST_SCALE, Math.min(box.width / drawing.width, box.height / drawing.height)));
  return {
    scale,
    x: Math.max(0, (box.width - drawing.width * scale) / 2),
    y: Math.max(0, (box.height - drawing.height * scale) / 2),
  };
}

/**
 * All of it where that can be read. Else the end that is asked about: of a cone what it decides, of an instance what
 * comes in.
 */
function firstFrame(drawing: PlacedDrawing, box: DOMRect): Frame {
  const whole = wholeFrame(drawing, box);
  if (whole.scale >= READABLE_SCALE) return whole;
  const end = drawing.nodes.find(({ node }) => node.id === 'end');
  if (end) {
    const y = box.height / 2 - (end.y + end.height / 2) * PLACE_SCALE;
    return { scale: PLACE_SCALE, x: box.width - EDGE - (end.x + end.width) * PLACE_SCALE, y };
  }
  const left = drawing.nodes.reduce((least, { x }) => Math.min(least, x), Number.POSITIVE_INFINITY);
  const first = drawing.nodes.filter(({ x }) => x < left + EDGE);
  const middles = first.map(({ y, height }) => y + height / 2).sort((a, b) => a - b);
  const middle = middles[middles.length >> 1] ?? 0;
  const y = box.height / 2 - middle * PLACE_SCALE;
  // No more of what is above and below the drawing than there is room for anyhow.
  const lowest = box.height - (drawing.height * PLACE_SCALE + EDGE);
  return { scale: PLACE_SCALE, x: EDGE - left * PLACE_SCALE, y: Math.min(EDGE, Math.max(lowest, y)) };
}

/** A box in the middle, or its upper left corner where it is larger than the sheet. */
function around({ x, y, width, height }: PlacedNode, box: DOMRect, scale: number): Frame {
  const place = (from: number, size: number, room: number) =>
    size * scale > room ? EDGE - from * scale : room / 2 - (from + size / 2) * scale;
  return { scale, x: place(x, width, box.width), y: place(y, height, box.height) };
}

const Lines = memo(function Lines({
  edges,
  bright = false,
}: {
  readonly edges: readonly PlacedEdge[];
  readonly bright?: boolean;
}) {
  return (
    <g fill="none" stroke={bright ? 'var(--color-signal)' : 'var(--color-quiet)'} pointerEvents="stroke">
      {edges.map((edge, i) => (
        <path
          // biome-ignore lint/suspicious/noArrayIndexKey: an edge over several levels has several pieces
          key={`${edge.id}${i}`}
          d={`M${edge.points.map(([x, y]) => `${x} ${y}`).join('L')}`}
          strokeWidth={edge.width > 1 ? 2 : 1}
        >
          <title>{`${edge.name}${edge.width > 1 ? `, ${edge.width} bits` : ''}`}</title>
        </path>
      ))}
    </g>
  );
});

/** Open instances lie under the lines, all others above. */
const Boxes = memo(function Boxes({
  drawing,
  open,
  onChoose,
}: {
  readonly drawing: PlacedDrawing;
  readonly open: boolean;
  readonly onChoose: (id: string) => void;
}) {
  return (
    <>
      {drawing.nodes
        .filter((placed) => (placed.node.inside !== undefined) === open)
        .map((placed) => (
          <Box key={placed.node.id} placed={placed} onChoose={onChoose} />
        ))}
    </>
  );
});

function Box({ placed, onChoose }: { readonly placed: PlacedNode; readonly onChoose: (id: string) => void }) {
  const { node, x, y, width, height, ports } = placed;
  const named = ports.some((port) => port.name !== '');
  const top = named || node.inside !== undefined;
  return (
    // biome-ignore lint/a11y/useSemanticElements: inside a drawing there are no buttons
    <g
      className="cursor-pointer"
      onClick={() => onChoose(node.id)}
      onKeyDown={(event) => event.key === 'Enter' && onChoose(node.id)}
      tabIndex={0}
      data-box={node.path || node.id}
      role="button"
      aria-label={`${node.kind} ${node.label}`}
    >
      <Outline placed={placed} />
      <text
        x={x + width / 2}
        y={top ? y + 13 : y + height / 2 + (node.detail === '' ? 4 : -1)}
        textAnchor="middle"
        fontSize="11"
        className={clsx(node.kind === 'operation' || node.kind === 'logic' ? '' : 'code')}
        fontWeight={node.kind === 'instance' ? 'bold' : 'normal'}
        fill="var(--color-ink)"
      >
        {node.label}
      </text>
      {node.detail !== '' && (
        <text
          x={x + width / 2}
          y={top ? y + 24 : y + height / 2 + 11}
          textAnchor="middle"
          fontSize="9"
          fill="var(--color-quiet)"
        >
          {node.detail}
        </text>
      )}
      {named &&
        ports.map((port) => (
          <text
            key={port.id}
            x={port.side === 'in' ? port.x + 4 : port.x - 4}
            // In an open box the line goes on behind the point: the name stands above it.
            y={port.y + (node.inside ? -3 : 3)}
            textAnchor={port.side === 'in' ? 'start' : 'end'}
            fontSize="9"
            className="code"
            fill="var(--color-ink)"
          >
            {port.name}
          </text>
        ))}
    </g>
  );
}

/** Shapes of our own: ports point, registers have a double left side, logic is rounded, memories are shelved. */
function Outline({ placed: { node, x, y, width, height } }: { readonly placed: PlacedNode }) {
  const line = { stroke: 'var(--color-ink)', strokeWidth: 1 } as const;
  switch (node.kind) {
    case 'input':
      return (
        <path
          d={`M${x} ${y}h${width - 8}l8 ${height / 2}l-8 ${height / 2}h${8 - width}z`}
          fill="var(--color-paper)"
          {...line}
        />
      );
    case 'output':
      return (
        <path
          d={`M${x + 8} ${y}h${width - 8}v${height}h${8 - width}l-8 ${-height / 2}z`}
          fill="var(--color-paper)"
          {...line}
        />
      );
    case 'register':
      return (
        <>
          <rect x={x} y={y} width={width} height={height} fill="var(--color-well)" {...line} />
          <path d={`M${x + 4} ${y}v${height}`} {...line} />
        </>
      );
    case 'memory':
      return (
        <>
          <rect x={x} y={y} width={width} height={height} fill="var(--color-well)" {...line} />
          <path d={`M${x} ${y + 3}h${width}M${x} ${y + height - 3}h${width}`} {...line} />
        </>
      );
    case 'logic':
    case 'operation':
      return (
        <rect
          x={x}
          y={y}
          width={width}
          height={height}
          rx={Math.min(12, height / 2)}
          fill="var(--color-raised)"
          {...line}
        />
      );
    case 'constant':
      return (
        <rect
          x={x}
          y={y}
          width={width}
          height={height}
          fill="var(--color-paper)"
          stroke="var(--color-line)"
          strokeWidth={1}
        />
      );
    case 'instance':
      return (
        <rect
          x={x}
          y={y}
          width={width}
          height={height}
          fill={node.inside ? 'var(--color-raised)' : 'var(--color-paper)'}
          stroke="var(--color-ink)"
          strokeWidth={1.6}
        />
      );
  }
}
