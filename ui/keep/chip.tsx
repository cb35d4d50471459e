'use client';
import type { FlashLook } from '../../server/index.ts';
import { clockTime, duration, Fact, quantity, Section, useLive } from '../shared/index.ts';

const FILL = { keep: 'var(--color-good)', program: 'var(--color-quiet)', erase: 'var(--color-signal)' } as const;

/** The chip as it answered, and what writing would do, sector by sector. */
export function Chip() {
  const flash = useLive()?.flash ?? null;
  if (!flash) return null;
  const { part, parameters, isProtected, bootSource, plan, time } = flash;
  return (
    <Section title="The chip" aside={`asked at ${clockTime(time)}`}>
      <dl data-testid="flash-chip">
        <Fact name="Chip">{part.maker} {part.name}, {quantity(part.bytes, 'B')}</Fact>
        <Fact name="Its own table" tone={parameters ? 'good' : 'doubt'}>{parameters ? `agrees, JESD216 ${parameters.revision}` : 'none'}</Fact>
        <Fact name="Erases">{part.erases.map((erase) => `${quantity(erase.bytes, 'B')} in ${duration(erase.typical / 1000)}`).join(', ')}</Fact>
        <Fact name="Protection" tone={isProtected ? 'bad' : undefined}>{isProtected ? 'on: nothing can be written' : 'off'}</Fact>
        <Fact name="Board boots from" tone={bootSource === 'jtag' ? 'doubt' : undefined}>{bootSource === 'jtag' ? 'JTAG: set the boot switch on the board to flash' : 'flash'}</Fact>
      </dl>
      {plan && <Plan plan={plan} bytes={part.bytes} />}
    </Section>
  );
}

function Plan({ plan, bytes }: { readonly plan: NonNullable<FlashLook['plan']>; readonly bytes: number }) {
  const count = (action: keyof typeof FILL) => plan.actions.filter((one) => one === action).length;
  const share = (plan.sectorBytes / bytes) * 1000;
  return (
    <div className="mt-2 text-sm" data-testid="flash-plan">
      <svg viewBox="0 0 1000 26" preserveAspectRatio="none" className="h-6 w-full border border-line bg-raised" role="img" aria-label={`${count('erase')} sectors erased, ${count('program')} programmed, ${count('keep')} kept`}>
        {plan.actions.map((action, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a sector is its place
          <rect key={i} x={i * share} y={action === 'keep' ? 18 : action === 'program' ? 9 : 0} width={share * 0.9} height={action === 'keep' ? 8 : action === 'program' ? 17 : 26} fill={FILL[action]} />
        ))}
      </svg>
      <p className="tabular mt-1 text-quiet">
        The whole chip to scale, {quantity(plan.sectorBytes, 'B')} a sector: {count('erase')} to erase (tall), {count('program')} only to program, {count('keep')} as they should be (low).
      </p>
      <p className="tabular">{plan.erases + plan.pages === 0 ? 'The flash holds this build already: writing would change nothing.' : <>{plan.erases} erases and {plan.pages} pages: about {duration(plan.typical / 1000)}, at worst {duration(plan.worst / 1000)}.</>}{plan.shared > 0 ? ` ${plan.shared} ${plan.shared === 1 ? 'sector is' : 'sectors are'} shared with other content, which stays.` : ''}</p>
    </div>
  );
}
