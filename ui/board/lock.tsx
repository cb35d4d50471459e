import { clsx } from 'clsx';
import type { LockState } from './lock-state.ts';

const [WIDE, HIGH] = [236, 62];
const [LEFT, RIGHT] = [62, 174];
const FLOOR = 56;
const metres = (centimetres: number): string => `${(centimetres / 100).toFixed(2)} m`;

/** The lock the board controls, in section: both ponds, the chamber, gates and sluices, and what went wrong last. */
export function LockPicture({ lock }: { readonly lock: LockState }) {
  const { chamber, pond, motors, surge } = lock;
  const y = (level: number) => FLOOR - 4 - (level / pond) * 40;
  const gate = (x: number, open: boolean) => (
    <rect x={x - 2} y={open ? -2 : 8} width={4} height={open ? 10 : FLOOR - 8} className="fill-ink" />
  );
  const sluice = (x: number, open: boolean) => (
    <path
      d={`M ${x - 7} ${FLOOR - 3} h 14 m -4 -3 l 4 3 l -4 3`}
      className={open ? 'stroke-signal' : 'stroke-transparent'}
      strokeWidth={1.8}
      fill="none"
    />
  );
  return (
    <figure
      className="mt-2 text-xs"
      data-testid="lock"
      data-chamber={Math.round(chamber)}
      data-surge={surge ? `${surge.gate} ${surge.differenceCentimetres}` : ''}
      data-calm-since={surge?.calmSince}
    >
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        className="block w-full"
        role="img"
        aria-label={`upper pond ${metres(pond)}, chamber ${metres(chamber)}`}
      >
        <rect x={0} y={y(pond)} width={LEFT} height={FLOOR - y(pond)} className="fill-water" opacity={0.35} />
        <rect
          x={LEFT}
          y={y(chamber)}
          width={RIGHT - LEFT}
          height={FLOOR - y(chamber)}
          className="fill-water"
          opacity={0.5}
        />
        <rect x={RIGHT} y={y(0)} width={WIDE - RIGHT} height={FLOOR - y(0)} className="fill-water" opacity={0.35} />
        <path d={`M 0 ${FLOOR} H ${WIDE}`} className="stroke-ink" strokeWidth={1.5} />
        {gate(LEFT, motors.gateUpper)}
        {gate(RIGHT, motors.gateLower)}
        {sluice(LEFT, motors.sluiceUpper)}
        {sluice(RIGHT, motors.sluiceLower)}
        <text x={(LEFT + RIGHT) / 2} y={13} textAnchor="middle" className="tabular fill-ink" fontSize={10}>
          {metres(chamber)}
        </text>
      </svg>
      <figcaption className={clsx('h-8 leading-tight', surge ? 'text-bad' : 'text-quiet')}>
        {surge
          ? `The ${surge.gate} gate opened at ${metres(surge.differenceCentimetres)} ` +
            `difference${surge.calmSince > 0 ? `; ${surge.calmSince} calm ${surge.calmSince === 1 ? 'opening' : 'openings'} since` : ''}.`
          : 'No gate opened at unequal levels.'}
      </figcaption>
    </figure>
  );
}
