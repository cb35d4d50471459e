import { clsx } from 'clsx';
import type { PinLevel } from '../../../core/boundary/index.ts';
import type { PackageDrawing, PackagePin } from '../../../core/families/index.ts';

interface Props {
  readonly drawing: PackageDrawing;
  readonly levels: readonly PinLevel[];
  readonly driven: Readonly<Record<string, 0 | 1>>;
  readonly chosen: string | null;
  readonly onChoose: (pin: string) => void;
}

const MARGIN = 1.6;
const LEAD = 1;

/** The package from above with the levels at its pins: filled is 1, hollow 0; a thick rim means driven from here. */
export function LevelPicture({ drawing, levels, driven, chosen, onChoose }: Props) {
  const size = drawing.body + 2 * (MARGIN + (drawing.style === 'quad' ? LEAD : 0));
  const offset = (size - drawing.body) / 2;
  const byPin = new Map(levels.map((one) => [one.pin, one]));
  return (
    <svg
      viewBox={`0 0 ${size} ${size}`}
      className="min-h-0 w-full flex-1"
      aria-label={`Levels at the pins of ${drawing.name}`}
      data-testid="level-picture"
    >
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
        {drawing.style === 'quad' && (
          <text
            x={drawing.body / 2}
            y={drawing.body / 2}
            fontSize="0.9"
            textAnchor="middle"
            fill="var(--color-ink)"
            fontWeight="bold"
          >
            {drawing.name}
          </text>
        )}
        {drawing.pins.map((pin) => {
          const level = byPin.get(pin.name);
          const own = level !== undefined && driven[`${level.place}.${pin.name}`] !== undefined;
          return (
            <Pad
              key={pin.name}
              pin={pin}
              drawing={drawing}
              level={level}
              own={own}
              chosen={pin.name === chosen}
              onChoose={() => pin.kind === 'io' && onChoose(pin.name)}
            />
          );
        })}
      </g>
    </svg>
  );
}

function Pad({
  pin,
  drawing,
  level,
  own,
  chosen,
  onChoose,
}: {
  readonly pin: PackagePin;
  readonly drawing: PackageDrawing;
  readonly level: PinLevel | undefined;
  readonly own: boolean;
  readonly chosen: boolean;
  readonly onChoose: () => void;
}) {
  const across = drawing.style === 'quad' ? LEAD : drawing.pitch * 0.72;
  const along = drawing.style === 'quad' ? drawing.pitch * 0.62 : drawing.pitch * 0.72;
  const vertical = drawing.style === 'quad' && (pin.y < 0 || pin.y > drawing.body);
  const [w, h] = vertical ? [along, across] : [across, along];
  const rest = pin.kind !== 'io' || level === undefined;
  const paint = {
    fill: rest ? 'var(--color-line)' : level.level === 1 ? 'var(--color-ink)' : 'var(--color-raised)',
    stroke: chosen ? 'var(--color-signal)' : own ? 'var(--color-bad)' : rest ? 'none' : 'var(--color-ink)',
    strokeWidth: chosen || own ? 0.16 : 0.05,
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: inside a drawing there are no buttons
    <g
      role="button"
      tabIndex={pin.kind === 'io' ? 0 : -1}
      className={clsx('outline-none', pin.kind === 'io' && 'cursor-pointer')}
      onClick={onChoose}
      onKeyDown={(event) => event.key === 'Enter' && onChoose()}
      data-pin={pin.name}
      data-level={level?.level ?? ''}
    >
      <title>{`${pin.name}${level ? `: ${level.level ?? 'not read'}` : ''}`}</title>
      {drawing.style === 'quad' ? (
        <rect x={pin.x - w / 2} y={pin.y - h / 2} width={w} height={h} {...paint} />
      ) : (
        <circle cx={pin.x} cy={pin.y} r={w / 2} {...paint} />
      )}
    </g>
  );
}
