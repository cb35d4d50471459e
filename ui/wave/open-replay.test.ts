// A capture and its project, as the worker opens them: what is computed, why, and what goes into simulation.
import { strFromU8, unzipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import type { Project } from '../../core/build/index.ts';
import { simulate } from '../../core/sim/events/index.ts';
import { type Capture, digitsOf, indexAt, type Recording, TraceWriter } from '../../core/wave/index.ts';
import { openReplay, type OpenReplay } from './open-replay.ts';

const DESIGN = `module top(input clk, input go, input [3:0] by, output [7:0] shown);
  sums u_sums(.clk(clk), .go(go), .by(by), .sum(shown));
endmodule
module sums(input clk, input go, input [3:0] by, output reg [7:0] sum);
  wire [7:0] next = sum + by;
  always @(posedge clk) if (go) sum <= next;
endmodule
`;

const PROJECT: Project = {
  file: {
    ...{ format: 'nimble-project', version: 3, grade: 2, accepted: [], name: 'top', top: 'top', part: 'CV25' },
    ...{ pins: 'pins.csv', clocks: {} },
  },
  files: [{ name: 'top.v', text: DESIGN }],
};

/** A record of samples: of each signal its width, and a value a sample. */
function recordOf(signals: Readonly<Record<string, readonly [width: number, values: readonly number[]]>>): Recording {
  const length = Math.max(...Object.values(signals).map(([, values]) => values.length));
  return {
    ...{ title: 'r', tickSeconds: 1e-6, length, triggers: [0], gaps: [], stored: null, sampled: true },
    traces: Object.entries(signals).map(([name, [width, values]]) => {
      const writer = new TraceWriter(width);
      for (const [i, value] of values.entries()) writer.add(i, [value], null);
      return writer.finish({ name, width, signed: false, domain: 'top.clk' });
    }),
  };
}

const GO = [1, 1, 0, 1, 1, 0];
const BY = [3, 4, 9, 5, 1, 2];
const RECORD = recordOf({ 'top.go': [1, GO], 'top.by': [4, BY] });
/** From 20 on, as the design counts. */
const SUMS = [20, 23, 27, 27, 32, 33];

async function opened(
  record: Recording,
  about: Partial<Capture> = {},
  more: Partial<Parameters<typeof openReplay>[0]> = {},
): Promise<OpenReplay> {
  const shares: number[] = [];
  const made = await openReplay(
    {
      capture: {
        ...{ id: 1, created: '2026-01-01T00:00:00Z', data: '' },
        about: {
          ...{ recorder: 'r', fingerprint: '0'.repeat(32), condition: '', signals: [], samples: record.length },
          ...{ sampleBits: 5, triggerIndex: 0, sampleRate: 1e6, ...about },
        },
      },
      ...{ project: PROJECT, see: ['u_sums'], beside: null, ...more },
    },
    record,
    (share) => shares.push(share),
  );
  if (!made.ok) throw new Error(`${made.error.code}: ${made.error.message}`);
  expect(shares.at(-1)).toBe(1);
  return made.value;
}

const valuesOf = ({ recording }: OpenReplay, name: string): string[] => {
  const trace = recording.traces.find((one) => one.name === name);
  if (!trace) throw new Error(`no ${name}`);
  return Array.from({ length: recording.length }, (_, i) => digitsOf(trace, indexAt(trace, i)));
};
const READ = { readings: [{ sample: 2, how: 'trigger' as const, values: { 'top.u_sums.sum': '27' } }] };

describe('a replay in its worker', () => {
  test('without a start the sum is unknown; read once, it is known in every sample, and what is told says so', async () => {
    const blind = await opened(RECORD);
    expect(new Set(valuesOf(blind, 'top.u_sums.sum'))).toEqual(new Set(['xxxxxxxx']));
    expect(blind.facts.unknown.map(({ signal, samples }) => [signal, samples])).toContainEqual(['top.u_sums.sum', 6]);
    const told = await opened(RECORD, READ);
    expect(valuesOf(told, 'top.u_sums.sum').map((digits) => Number.parseInt(digits, 2))).toEqual(SUMS);
    expect(told.facts).toMatchObject({
      ...{ stored: 5, samples: 6, clock: 'top.clk', unknown: [], disagreements: [], cut: null },
      readings: [{ sample: 2, how: 'trigger', bits: 8 }],
    });
    expect(told.computed.has('top.u_sums.sum')).toBe(true);
    expect(told.computed.has('top.go')).toBe(false);
  });

  test('signals that came in late, and those that a lever held, are not taken for what the design has', async () => {
    const late = await opened(RECORD, {
      plan: { name: 'r', clock: 'top.clk', depth: 16, signals: ['top.go', 'top.by'], synchronised: ['top.by'] },
    });
    expect(late.facts.stored).toBe(1);
    expect(late.facts.missing).toContainEqual({ kind: 'input', name: 'by' });
    const held = await opened(recordOf({ 'top.go': [1, GO] }), {
      levers: [{ signal: 'top.u_sums.by', value: '3', overrides: true }],
    });
    expect(held.facts.missing).toContainEqual({ kind: 'lever', name: 'top.u_sums.by' });
  });

  test('says why, back through the samples, and that nothing is known of before the first', async () => {
    const done = await opened(RECORD, READ);
    const at = done.why('top.u_sums.sum', 4);
    expect(at).toMatchObject({ how: 'edge', value: '00100000', since: 4 });
    expect(at?.causes.map(({ signal, tick }) => [signal, tick])).toEqual(
      expect.arrayContaining([['top.u_sums.next', 3]]),
    );
    expect(done.why('top.u_sums.sum', 0)?.how).toBe('start');
    expect(done.why('nobody', 0)).toBeNull();
  });

  test('a record that is not so is told with what it would mean', async () => {
    const wrong = recordOf({
      ...{ 'top.go': [1, GO], 'top.by': [4, BY] },
      'top.shown': [8, [...SUMS.slice(0, 5), 34]],
    });
    const { facts } = await opened(wrong);
    expect(facts.disagreements).toMatchObject([{ signal: 'top.shown', sample: 5, samples: 1 }]);
    expect(facts.disagreements[0]?.means).toBeTruthy();
  });

  test('becomes a testbench that runs as it is packed, laid beside the hardware, and a table', async () => {
    const done = await opened(recordOf({ 'top.go': [1, GO], 'top.by': [4, BY], 'top.shown': [8, SUMS] }));
    const packed = done.testbench('u_sums', 'x');
    if (!packed.ok) throw new Error(packed.error.message);
    const files = new Map(Object.entries(unzipSync(packed.value.zip)).map(([name, data]) => [name, strFromU8(data)]));
    expect(files.get('README.txt')).toContain('What was recorded of u_sums');
    const name = packed.value.name.replace(/\.zip$/, '');
    const printed: string[] = [];
    const dumped: string[] = [];
    const { run } = simulate(
      [...files].flatMap(([file, text]) => (file.endsWith('.v') ? [{ name: file, text }] : [])),
      {
        top: name,
        host: {
          read: (file) => files.get(file) ?? null,
          print: (text) => void printed.push(text),
        },
        dump: { write: (text) => void dumped.push(text) },
        dumpAll: true,
      },
    );
    expect([run?.ending, printed.join('')]).toEqual(['finish', expect.stringContaining('no difference')]);
    const beside = await opened(RECORD, READ, {
      beside: {
        ...{ instance: 'u_sums', testbench: name, dump: new Blob(dumped), finished: true },
        printed: printed.join(''),
      },
    });
    expect(beside.facts.simulation).toMatchObject({ instance: 'top.u_sums', finished: true, differences: [] });
    expect(beside.recording.traces.some((trace) => trace.name.startsWith('simulation: '))).toBe(true);
    const table = await done.table('u_sums');
    expect(table.ok && table.value.name).toBe('u_sums.vectors.csv');
    expect((await done.table('u_nobody')).ok).toBe(false);
    expect(done.testbench('u_nobody', 'zeros').ok).toBe(false);
  });

  test('what cannot be opened says why', async () => {
    const ask = (see: readonly string[], project = PROJECT) =>
      openReplay(
        {
          capture: {
            ...{ id: 1, created: '', data: '' },
            about: {
              ...{ recorder: 'r', fingerprint: '', condition: '', signals: [], samples: 6, sampleBits: 5 },
              ...{ triggerIndex: 0, sampleRate: 1e6 },
            },
          },
          ...{ project, see, beside: null },
        },
        RECORD,
        () => {},
      );
    expect(await ask(['u_nobody'])).toMatchObject({ ok: false, error: { code: 'nothing-there' } });
    const broken = { ...PROJECT, files: [{ name: 'top.v', text: 'module top(' }] };
    expect(await ask(['u_sums'], broken)).toMatchObject({ ok: false, error: { code: 'not-understood' } });
  });
});
