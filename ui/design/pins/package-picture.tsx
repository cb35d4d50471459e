'use client';
import { useDroppable } from '@dnd-kit/core';
import { clsx } from 'clsx';
import { useState } from 'react';
import type { PinEntry, PinIssue, PortNeed } from '../../../core/constraints/index.ts';
import { banksOf, type PackageDrawing, type PackagePin } from '../../../core/families/index.ts';
import { item } from '../../../core/lists.ts';

interface Props {
  readonly drawing: PackageDrawing;
  readonly rows: readonly PinEntry[];
  readonly ports: readonly PortNeed[];
  readonly issues: readonly PinIssue[];
  readonly supplies: Readonly<Record<string, number>>;
  readonly chosen: string | null;
  readonly onChoose: (name: string) => void;
  readonly onPlace: (name: string, pin: string) => void;
}

const MARGIN = 1.6;
const LEAD = 1;
/** Banks differ by hatching and number, not by colour alone. */
const BANK_FILL = [1, 2, 3, 4].map((area) => `var(--color-area-${area})`);

/** The package seen from above, to scale. A port is dragged onto a pin, or placed by choosing it and pressing a pin. */
export function PackagePicture({ drawing, rows, ports, issues, supplies, chosen, onChoose, onPlace }: Props) {
  const [at, setAt] = useState<PackagePin | null>(null);
  const size = drawing.body + 2 * (MARGIN + (drawing.style === 'quad' ? LEAD : 0));
  const offset = (size - drawing.body) / 2;
  const byPin = new Map(rows.map((row) => [row.pin, row]));
  const wrong = new Set(
    issues.filter((issue) => issue.entry >= 0 && issue.severity !== 'warning').map((issue) => rows[issue.entry]?.pin),
  );
  const shown = at ?? drawing.pins.find((pin) => pin.name === rows.find((row) => row.name === chosen)?.pin) ?? null;
  const port = shown ? byPin.get(shown.name) : undefined;
  return (
    <div className="flex min-h-0 flex-col">
      <svg viewBox={`0 0 ${size} ${size}`} className="min-h-0 w-full flex-1" aria-label={`Package ${drawing.name}`}>
        <g transform={`translate(${offset} ${offset})`}>
          <rect
            width={drawing.body}
            height={drawing.body}
            rx="0.3"
            fill="var(--color-well)"
            stroke="var(--color-ink)"
            strokeWidth="0.06"
          />
          <circle cx="0.8" cy="0.8" r="0.28" fill="var(--color-ink)" />
          {drawing.style === 'quad' &&
            banksOf(drawing).map((bank) => (
              <BankLabel key={bank} bank={bank} body={drawing.body} volts={supplies[bank]} />
            ))}
          <text
            x={drawing.body / 2}
            y={drawing.body / 2}
            fontSize={drawing.style === 'quad' ? 0.9 : 0.0001}
            textAnchor="middle"
            fill="var(--color-ink)"
            fontWeight="bold"
          >
            {drawing.name}
          </text>
          {drawing.pins.map((pin) => (
            <Pad
              key={pin.name}
              pin={pin}
              drawing={drawing}
              row={byPin.get(pin.name)}
              wrong={wrong.has(pin.name)}
              chosen={chosen !== null && byPin.get(pin.name)?.name === chosen}
              onLook={setAt}
              onPress={() => {
                const own = byPin.get(pin.name);
                if (own) onChoose(own.name);
                else if (chosen && pin.kind === 'io') onPlace(chosen, pin.name);
              }}
            />
          ))}
        </g>
      </svg>
      <div className="h-16 shrink-0 border-line border-t pt-1 text-sm" aria-live="polite">
        {shown ? (
          <>
            <p>
              <span className="code font-bold">{shown.name}</span>{' '}
              {shown.kind === 'io'
                ? 'bank ' +
                  `${shown.bank}${supplies[String(shown.bank)] ? `, ${supplies[String(shown.bank)]} V` : ''}` +
                  `${shown.clock ? ', reaches the clock network' : ''}`
                : shown.kind === 'supply'
                  ? 'supply'
                  : 'configuration'}
            </p>
            <p className="truncate">
              {port ? (
                <>
                  <span className="code text-xs">{port.name}</span> {port.standard}, {port.drive} mA, pull {port.pull},{' '}
                  {port.slew}
                </>
              ) : (
                <span className="text-quiet">
                  {shown.kind === 'io' ? (chosen ? `free: press it to put ${chosen} here` : 'free') : 'no user pin'}
                </span>
              )}
            </p>
          </>
        ) : (
          <p className="text-quiet">
            Drag a port onto a pin, or choose a port and press a pin.{' '}
            {ports.length === 0 ? '' : `${rows.length} of ${ports.reduce((n, p) => n + p.width, 0)} bits have pins.`}
          </p>
        )}
      </div>
    </div>
  );
}

interface PadProps {
  readonly pin: PackagePin;
  readonly drawing: PackageDrawing;
  readonly row: PinEntry | undefined;
  readonly wrong: boolean;
  readonly chosen: boolean;
  readonly onLook: (pin: PackagePin | null) => void;
  readonly onPress: () => void;
}

function Pad({ pin, drawing, row, wrong, chosen, onLook, onPress }: PadProps) {
  const { setNodeRef, isOver } = useDroppable({ id: pin.name, disabled: pin.kind !== 'io' });
  const across = drawing.style === 'quad' ? LEAD : drawing.pitch * 0.72;
  const along = drawing.style === 'quad' ? drawing.pitch * 0.62 : drawing.pitch * 0.72;
  const vertical = drawing.style === 'quad' && (pin.y < 0 || pin.y > drawing.body);
  const [w, h] = vertical ? [along, across] : [across, along];
  const fill = pin.kind !== 'io' ? 'var(--color-supply)' : row ? 'var(--color-ink)' : item(BANK_FILL, pin.bank ?? 0);
  const common = {
    fill: wrong ? 'var(--color-bad)' : fill,
    stroke: isOver || chosen ? 'var(--color-signal)' : pin.clock ? 'var(--color-ink)' : 'none',
    strokeWidth: isOver || chosen ? 0.16 : 0.06,
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: inside a drawing there are no buttons
    <g
      role="button"
      tabIndex={pin.kind === 'io' ? 0 : -1}
      onKeyDown={(event) => event.key === 'Enter' && onPress()}
      ref={setNodeRef as unknown as React.Ref<SVGGElement>}
      className={clsx('outline-none', pin.kind === 'io' && 'cursor-pointer')}
      onPointerEnter={() => onLook(pin)}
      onPointerLeave={() => onLook(null)}
      onClick={onPress}
      data-pin={pin.name}
    >
      <title>{`Pin ${pin.name}${row ? `, ${row.name}` : ''}`}</title>
      {drawing.style === 'quad' ? (
        <rect x={pin.x - w / 2} y={pin.y - h / 2} width={w} height={h} {...common} />
      ) : (
        <circle cx={pin.x} cy={pin.y} r={w / 2} {...common} />
      )}
      {pin.clock && (
        <path
          d={`M${pin.x - 0.14} ${pin.y + 0.08}v-0.16h0.14v0.16h0.14v-0.16`}
          fill="none"
          stroke={row ? 'var(--color-raised)' : 'var(--color-ink)'}
          strokeWidth="0.045"
        />
      )}
      {drawing.style === 'quad' && (pin.kind === 'io' ? Number(pin.name.slice(1)) % 5 === 1 : false) && (
        <PinNumber pin={pin} body={drawing.body} />
      )}
      {drawing.style === 'grid' && (pin.y < 1.1 || pin.x < 1.1) && <BallName pin={pin} />}
    </g>
  );
}

function PinNumber({ pin, body }: { readonly pin: PackagePin; readonly body: number }) {
  const inside = 0.5;
  const left = pin.x < 0;
  const right = pin.x > body;
  const x = left ? inside : right ? body - inside : pin.x;
  const y = left || right ? pin.y + 0.14 : pin.y < 0 ? 0.75 : body - 0.4;
  return (
    <text x={x} y={y} fontSize="0.42" textAnchor={left ? 'start' : right ? 'end' : 'middle'} fill="var(--color-quiet)">
      {pin.name.slice(1)}
    </text>
  );
}

function BallName({ pin }: { readonly pin: PackagePin }) {
  const top = pin.y < 1.1;
  return (
    <>
      {top && (
        <text x={pin.x} y={-0.3} fontSize="0.5" textAnchor="middle" fill="var(--color-quiet)">
          {pin.name.slice(1)}
        </text>
      )}
      {pin.x < 1.1 && (
        <text x={-0.3} y={pin.y + 0.18} fontSize="0.5" textAnchor="end" fill="var(--color-quiet)">
          {pin.name[0]}
        </text>
      )}
    </>
  );
}

/** Left, bottom, right, top. */
function BankLabel({
  bank,
  body,
  volts,
}: {
  readonly bank: number;
  readonly body: number;
  readonly volts: number | undefined;
}) {
  const places = [
    [3.1, body / 2 + 0.2],
    [body / 2, body - 2],
    [body - 3.1, body / 2 + 0.2],
    [body / 2, 2.3],
  ] as const;
  const [x, y] = places[bank] ?? places[0];
  return (
    <g>
      <rect x={x - 1.7} y={y - 0.62} width="3.4" height="0.9" fill={BANK_FILL[bank]} rx="0.1" />
      <text x={x} y={y} fontSize="0.48" textAnchor="middle" fill="var(--color-ink)">
        bank {bank}
        {volts ? `, ${volts} V` : ''}
      </text>
    </g>
  );
}
