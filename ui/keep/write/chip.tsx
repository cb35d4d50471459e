'use client';
import { counted } from '../../../core/words.ts';
import { CheckList, clockTime, duration, Fact, quantity, Section, useLive } from '../../shared/index.ts';
import { Strip } from '../strip.tsx';

/** The chip as it answered. */
export function Chip() {
  const flash = useLive('flash')?.flash ?? null;
  if (!flash) return null;
  const { part, parameters, isProtected, bootSource, time, update, golden } = flash;
  return (
    <Section title="The chip" aside={`asked at ${clockTime(time)}`}>
      <dl data-testid="flash-chip">
        <Fact name="Chip">
          {part.maker} {part.name}, {quantity(part.bytes, 'B')}
        </Fact>
        <Fact name="Its own table" tone={parameters ? 'good' : 'doubt'}>
          {parameters ? `agrees, JESD216 ${parameters.revision}` : 'none'}
        </Fact>
        <Fact name="Erases">
          {part.erases.map((erase) => `${quantity(erase.bytes, 'B')} in ${duration(erase.typical / 1000)}`).join(', ')}
        </Fact>
        <Fact name="Protection" tone={isProtected ? 'bad' : undefined}>
          {isProtected ? 'on: nothing can be written' : 'off'}
        </Fact>
        <Fact name="At 0x0">
          {golden.isWhole ? `a whole image, ${golden.fingerprint?.slice(0, 8)}` : 'no image that would boot'}
        </Fact>
        <Fact name="Boot header">
          {update === null ? 'none: 0x0 boots' : `tries 0x${update.toString(16).toUpperCase()} first`}
        </Fact>
        <Fact name="Board boots from" tone={bootSource === 'jtag' ? 'doubt' : undefined}>
          {bootSource === 'jtag' ? 'JTAG: set the boot switch on the board to flash' : 'flash'}
        </Fact>
      </dl>
    </Section>
  );
}

/** What stands in the way, and what writing would do, sector by sector. */
export function Plan() {
  const flash = useLive('flash')?.flash ?? null;
  if (!flash) return null;
  const { part, plan, checks, blocks } = flash;
  const count = (action: string) => plan?.sectors.filter((sector) => sector.action === action).length ?? 0;
  const places = blocks.map(({ name, role, address, bytes }) => ({ name, role, start: address, end: address + bytes }));
  return (
    <Section title="Plan" aside={`asked at ${clockTime(flash.time)}`}>
      <div data-testid="flash-plan">
        <CheckList checks={checks} />
        {plan && (
          <>
            <Strip
              size={part.bytes}
              sectorBytes={plan.sectorBytes}
              places={places}
              sectors={plan.sectors}
              label={`${counted(count('erase'), 'sector')} erased, ${count('program')} programmed, ${count('keep')} kept`}
            />
            <p className="tabular mt-1 text-quiet text-sm">
              {`${quantity(plan.sectorBytes, 'B')} a sector: ${count('erase')} to erase (full height), ` +
                `${count('program')} only to program (half), ${count('keep')} as they should be (a line).`}
            </p>
            <p className="tabular text-sm">
              {plan.erases + plan.pages === 0 ? (
                'The flash holds all of this already: writing would change nothing.'
              ) : (
                <>
                  {counted(plan.erases, 'erase')} and {counted(plan.pages, 'page')}: about{' '}
                  {duration(plan.typical / 1000)}, at worst {duration(plan.worst / 1000)}, and the time on the cable.
                </>
              )}
              {plan.shared > 0
                ? ` ${plan.shared} ${plan.shared === 1 ? 'sector is' : 'sectors are'} shared with other content, ` +
                  'which stays.'
                : ''}
            </p>
          </>
        )}
        <table className="mt-2 w-full border-collapse text-sm">
          <tbody>
            {blocks.map(({ name, role, address, bytes, sha256, fingerprint }) => (
              <tr key={`${name} ${address}`} className="border-line border-t">
                <td className="py-1 pr-2">{name}</td>
                <td className="py-1 pr-2 text-quiet">{role}</td>
                <td className="code py-1 pr-2 text-right">0x{address.toString(16).toUpperCase()}</td>
                <td className="tabular py-1 pr-2 text-right">{bytes.toLocaleString('en')} B</td>
                <td className="code py-1 text-right text-quiet text-xs" title={`SHA-256 ${sha256}`}>
                  {fingerprint ? fingerprint.slice(0, 8) : `SHA ${sha256.slice(0, 8)}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Section>
  );
}
