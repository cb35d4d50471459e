'use client';
import { clockTime, Fact, Section, shortPrint, useLive } from '../../shared/index.ts';

/** The last boot that was asked for, and whether it was the right one. */
export function Rehearsed() {
  const rehearsal = useLive('rehearsal')?.rehearsal ?? null;
  if (!rehearsal) return null;
  const { by, done, bootMilliseconds, fingerprint, wanted, status, time } = rehearsal;
  const right = done && (wanted === null || fingerprint === wanted);
  const which = status.fromUpdate
    ? 'the update'
    : status.fellBack
      ? 'the golden image, since the update was refused'
      : 'the image at 0x0';
  return (
    <Section
      title="Boot rehearsal"
      aside={`${by === 'power' ? 'by power-cycle' : 'by the reconfigure wire'}, ${clockTime(time)}`}
    >
      <dl data-testid="rehearsal">
        <Fact name="DONE" tone={done ? 'good' : 'bad'}>
          {done ? `high after ${bootMilliseconds} ms` : 'low'}
        </Fact>
        <Fact name="Booted" tone={right ? 'good' : 'bad'} code={done}>
          {done
            ? shortPrint(fingerprint ?? '')
            : status.bootSource === 'jtag'
              ? 'nothing: the boot switch stands at JTAG'
              : 'nothing'}
        </Fact>
        {wanted !== null && (
          <Fact name="Should boot" code>
            {shortPrint(wanted)}
          </Fact>
        )}
        {done && (
          <Fact name="Which is" tone={status.fellBack ? 'doubt' : undefined}>
            {which}
          </Fact>
        )}
      </dl>
    </Section>
  );
}
