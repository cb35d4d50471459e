import type { Stop } from '../../../core/hdl/index.ts';
import type { SourcePlace } from '../places.ts';

interface Props {
  readonly stops: readonly Stop[];
  /** The last leads back to the first. */
  readonly closed: boolean;
  readonly onOpen: (place: SourcePlace) => void;
}

const BOX_WIDTH = 250;
const BOX_HEIGHT = 22;
const STEP = 40;
const LEFT = 34;

/** A way through the design as a column of names with arrows; a loop's way back runs down its left side. */
export function Trail({ stops, closed, onOpen }: Props) {
  const height = stops.length * STEP - (STEP - BOX_HEIGHT) + 4;
  const middle = (i: number) => i * STEP + BOX_HEIGHT / 2 + 2;
  const last = stops.length - 1;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing cannot be a field set
    <svg
      width={LEFT + BOX_WIDTH + 4}
      height={height}
      className="mb-2 block"
      role="group"
      aria-label={closed ? 'The loop' : 'The way'}
    >
      <defs>
        <marker id="trail-head" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" orient="auto">
          <path d="M0 0 8 4 0 8z" fill="var(--color-signal-deep)" />
        </marker>
      </defs>
      {stops.slice(1).map((stop, i) => (
        <path
          key={stop.name}
          d={`M${LEFT + 40} ${middle(i) + BOX_HEIGHT / 2}V${middle(i + 1) - BOX_HEIGHT / 2}`}
          stroke="var(--color-signal-deep)"
          strokeWidth="1.5"
          markerEnd="url(#trail-head)"
        />
      ))}
      {closed && (
        <path
          d={`M${LEFT} ${middle(last)}H14V${middle(0)}H${LEFT}`}
          fill="none"
          stroke="var(--color-signal-deep)"
          strokeWidth="1.5"
          markerEnd="url(#trail-head)"
        />
      )}
      {stops.map((stop, i) => (
        // biome-ignore lint/a11y/useSemanticElements: inside a drawing there are no buttons
        <g
          key={stop.name}
          role="button"
          tabIndex={0}
          transform={`translate(${LEFT} ${middle(i) - BOX_HEIGHT / 2})`}
          onClick={() => onOpen(stop)}
          onKeyDown={(event) => event.key === 'Enter' && onOpen(stop)}
          className="cursor-pointer"
        >
          <rect width={BOX_WIDTH} height={BOX_HEIGHT} fill="var(--color-raised)" stroke="var(--color-line)" />
          <text x="8" y="15" className="code" fontSize="11" fill="var(--color-ink)">
            {stop.name.length > 32 ? `…${stop.name.slice(-31)}` : stop.name}
          </text>
          <title>{`${stop.name}, ${stop.file}, line ${stop.line}`}</title>
        </g>
      ))}
    </svg>
  );
}
