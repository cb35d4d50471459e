'use client';
import type { AfterLoad } from '../../core/operations/index.ts';
import { counted } from '../../core/words.ts';
import { Fact, Section, shortPrint, useLive } from '../shared/index.ts';

/** What was found once the design ran. */
export function Report() {
  const state = useLive('loadReport');
  const report = state?.loadReport ?? null;
  const steps = report?.steps.filter((step) => step.load?.done) ?? [];
  if (steps.length === 0) return null;
  return (
    <>
      {steps.map(({ load, after, source, fingerprint }) => {
        if (!load) return null;
        const same = load.fingerprint === fingerprint;
        return (
          <Section
            key={`${load.device} ${fingerprint}`}
            title="After loading"
            aside={`${source}, place ${load.device}`}
          >
            <dl data-testid="after-load">
              <Fact name="Fingerprint read back" tone={same ? 'good' : 'bad'} code>
                {load.fingerprint ? shortPrint(load.fingerprint) : 'none'}
              </Fact>
              <Fact name="Memory read back" tone={load.verified ? 'good' : undefined}>
                {load.verified === null ? 'not asked for' : load.verified ? 'equal' : 'differs'}
              </Fact>
              {load.attempts > 1 && (
                <Fact name="Attempts" tone="doubt">
                  2: {load.firstProblem?.message ?? ''}
                </Fact>
              )}
              <Fact
                name="Debug cores"
                tone={after?.cores.kind === 'silent' ? 'bad' : after?.cores.kind === 'unmapped' ? 'doubt' : undefined}
              >
                {coresText(after)}
              </Fact>
              {after?.clocks.map(({ port, pin, ticks }) => (
                <Fact key={pin} name={`Clock ${port}, ${pin}`} tone={ticks ? 'good' : 'bad'}>
                  {ticks ? 'ticks' : 'stands still'}
                </Fact>
              ))}
              <Fact name="TCK cycles a payload bit">{(load.tckCycles / Math.max(1, load.payloadBits)).toFixed(5)}</Fact>
            </dl>
          </Section>
        );
      })}
    </>
  );
}

function coresText(after: AfterLoad | null): string {
  if (!after) return 'not looked at';
  switch (after.cores.kind) {
    case 'found':
      return after.cores.names.join(', ');
    case 'none':
      return 'the hub does not answer: this design has none';
    case 'unmapped':
      return (
        `${counted(after.cores.count, 'core')} of build ${shortPrint(after.cores.fingerprint)}; what they are ` +
        'connected to is not known here: give the .probes.json that was written beside the file'
      );
    case 'silent':
      return after.cores.why;
  }
}
