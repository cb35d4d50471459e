// `nimble replay`: a stranger's own design, a record of the bench, and dumps from elsewhere.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { nimbleCommand } from '../support/command.ts';

const BENCH = ['--bench', 'demo/benches/lockhouse.bench.json', '--json'];
const { at, nimble } = nimbleCommand();

const DESIGN = `module blink(input clk, input go, output [2:0] lamp, output odd);
  counter #(.STEP(3)) u_counter(.clk(clk), .go(go), .value(lamp));
  assign odd = lamp[0];
endmodule
module counter #(parameter STEP = 1)(input clk, input go, output reg [2:0] value);
  reg [1:0] late;
  always @(posedge clk) begin late <= {late[0], go}; value <= go ? 3'd0 : value + STEP; end
endmodule
`;

function sources(): string {
  mkdirSync(at('design'), { recursive: true });
  writeFileSync(at('design/blink.v'), DESIGN);
  return at('design/blink.v');
}

/** A dump of the inputs and one output, a time a sample. */
function dump(values: readonly (readonly [go: number, odd: number])[], names = ['clk', 'go', 'odd']): string {
  const [, go = 'go', odd = 'odd'] = names;
  const lines = [
    '$timescale 1 us $end $scope module blink $end',
    `$var wire 1 g ${go} $end $var wire 1 o ${odd} $end $upscope $end $enddefinitions $end`,
    ...values.flatMap(([g, o], i) => [`#${i * 10}`, `${g}g`, `${o}o`]),
    `#${values.length * 10}`,
  ];
  writeFileSync(at('record.vcd'), `${lines.join('\n')}\n`);
  return at('record.vcd');
}

/** From a start at 0 it counts 0, 3, 6, 1, 4, 7. */
const COUNTED = [
  [0, 0],
  [1, 1],
  [0, 0],
  [0, 1],
  [0, 0],
  [0, 1],
] as const;

const computed = (record: string, ...more: string[]) =>
  nimble('replay', 'compute', record, '--design', sources(), '--top', 'blink', '--see', 'u_counter', ...more, '--json');

describe('nimble replay plan', () => {
  test('proposes the fewest bits, keeps to what is said, and writes a plan that can be built', () => {
    const file = sources();
    const plan = (...more: string[]) =>
      nimble('replay', 'plan', file, '--top', 'blink', '--see', 'u_counter', ...more, '--json');
    const { json } = plan('--out', at('replay.plan.json'));
    expect(json).toMatchObject({ stored: 1, clock: 'blink.clk', signals: [{ name: 'blink.u_counter.go', width: 1 }] });
    expect(json.factor).toBeGreaterThan(5);
    expect(json.unknown).toEqual(
      expect.arrayContaining([expect.objectContaining({ signal: 'blink.u_counter.late', samples: 2 })]),
    );
    const all = plan('--insist', 'lamp[1:0]').json as { stored: number; signals: { name: string }[] };
    expect(all.signals.map(({ name }) => name)).toEqual(['blink.lamp[1:0]', 'blink.u_counter.go']);
    expect(plan('--stored-bits', '6').json).toMatchObject({ stored: 6, unknown: [] });
    expect([plan('--never', 'go').status, plan('--never', 'go').json.problem]).toMatchObject([
      1,
      { code: 'cannot-be-stored' },
    ]);
    expect(plan('--insist', 'nobody').json.problem).toMatchObject({ code: 'no-such-signal' });
    expect(plan('--stored-bits', 'few').status).toBe(2);
    expect(nimble('replay', 'plan', file, '--see', 'u_nobody', '--json').json.problem).toMatchObject({
      code: 'nothing-there',
      message: expect.stringContaining('u_nobody'),
    });
    const built = nimble(
      ...['build', file, '--top', 'blink', '--part', 'CV25', '--plan', at('replay.plan.json')],
      ...['--out', at('blink.nbits'), '--json'],
    );
    expect(JSON.parse(readFileSync(at('blink.probes.json'), 'utf8')).cores[0]).toMatchObject({
      name: 'replay',
      signals: [{ name: 'blink.u_counter.go', width: 1 }],
    });
    expect(built.status).toBe(0);
  });
});

describe('nimble replay plan, of registers that are read once', () => {
  test('reads them where that makes more known, says so, and leaves them where it is told to', () => {
    const file = sources();
    const plan = (...more: string[]) =>
      nimble('replay', 'plan', file, '--top', 'blink', '--see', 'u_counter', ...more, '--json').json;
    expect(plan('--out', at('read.plan.json'))).toMatchObject({
      atTrigger: [{ name: 'blink.u_counter.value', width: 3 }],
      unknown: [{ signal: 'blink.u_counter.late', samples: 2 }],
    });
    expect(JSON.parse(readFileSync(at('read.plan.json'), 'utf8')).recorders[0].atTrigger).toEqual([
      'blink.u_counter.value',
    ]);
    const without = plan('--no-at-trigger', '--out', at('unread.plan.json'));
    expect(without).toMatchObject({ atTrigger: [] });
    expect((without.unknown as { signal: string }[]).map(({ signal }) => signal)).toContain('blink.u_counter.value');
    expect(JSON.parse(readFileSync(at('unread.plan.json'), 'utf8')).recorders[0].atTrigger).toBeUndefined();
    const built = nimble(
      ...['build', file, '--top', 'blink', '--part', 'CV25', '--plan', at('read.plan.json')],
      ...['--out', at('read.nbits'), '--json'],
    );
    expect(built.status).toBe(0);
    expect(JSON.parse(readFileSync(at('read.probes.json'), 'utf8')).cores[0].atTrigger).toMatchObject([
      { name: 'blink.u_counter.value', width: 3, lo: 0 },
    ]);
  });
});

describe('nimble replay compute', () => {
  /** A capture of `go` as a recorder writes it, with what else is said of it. */
  const capture = (more: object): string => {
    const go = COUNTED.map(([g], i) => [i, String(g)] as const).filter(
      ([i, g]) => i === 0 || g !== String(COUNTED[i - 1]?.[0]),
    );
    const document = {
      ...{
        format: 'nimble-capture',
        version: 1,
        recorder: 'r',
        fingerprint: '0'.repeat(32),
        samples: 6,
        sampleRate: 1e6,
      },
      signals: [{ name: 'blink.go', width: 1, changes: go }],
      ...more,
    };
    writeFileSync(at('capture.json'), JSON.stringify(document));
    return at('capture.json');
  };

  test('a capture brings what was read once, and signals that came in late are left out', () => {
    const plain = computed(capture({})).json;
    expect(plain).toMatchObject({ stored: 1 });
    const read = { sample: 0, how: 'trigger', values: { 'blink.u_counter.value': '5' } };
    const told = computed(capture({ readings: [read] }), '--out', at('told.vcd')).json;
    expect((told.unknown as { signal: string }[]).map(({ signal }) => signal)).toEqual(['blink.u_counter.late']);
    const value = nimble('wave', 'value', at('told.vcd'), '--signal', 'blink.u_counter.value', '--at', '0', '--json');
    expect(value.json.value).toBe('101');
    const late = {
      plan: { name: 'r', clock: 'blink.clk', depth: 16, signals: ['blink.go'], synchronised: ['blink.go'] },
    };
    expect(computed(capture(late)).json).toMatchObject({ problem: { code: 'nothing-recorded' } });
  });

  test('a dump without its clock: each time is a sample; the output holds every signal, unknown bits as x', () => {
    const { status, json } = computed(dump(COUNTED), '--out', at('all.vcd'));
    expect(status).toBe(0);
    expect(json).toMatchObject({ stored: 2, samples: 6, disagreements: [] });
    expect(json.unknown).toEqual(
      expect.arrayContaining(['value', 'late'].map((name) => ({ signal: `blink.u_counter.${name}`, samples: 2 }))),
    );
    const value = (signal: string, time: number) =>
      nimble('wave', 'value', at('all.vcd'), '--signal', signal, '--at', String(time), '--json').json.value;
    // Loaded with 0 at the second sample; before, that it is odd or even says which of the two it was.
    expect([20, 30, 40, 50].map((time) => value('blink.u_counter.value', time))).toEqual(['000', '011', '110', '001']);
    expect([0, 10, 20].map((time) => value('blink.u_counter.late', time))).toEqual(['xx', 'x0', '01']);
  });

  test('what was read at one sample is taken from a file, and counts backwards too', () => {
    const record = dump(COUNTED.slice(2), ['clk', 'go', 'nobody']);
    writeFileSync(at('state.json'), '{"sample": 3, "values": {"u_counter.value": "1"}}');
    const { json } = computed(record, '--state', at('state.json'), '--out', at('stated.vcd'));
    expect(json).toMatchObject({ disagreements: [] });
    expect((json.unknown as { signal: string }[]).map(({ signal }) => signal)).toEqual(['blink.u_counter.late']);
    const value = nimble('wave', 'value', at('stated.vcd'), '--signal', 'blink.u_counter.value', '--at', '0', '--json');
    expect(value.json.value).toBe('000');
    writeFileSync(at('bad-state.json'), '{"values": {"u_counter.value": "many"}}');
    expect(computed(record, '--state', at('bad-state.json')).json.problem).toMatchObject({ code: 'bad-state' });
    writeFileSync(at('bad-state.json'), '{"values": {"nobody": "1"}}');
    expect(computed(record, '--state', at('bad-state.json')).json.problem).toMatchObject({ code: 'no-such-signal' });
  });

  test('the same with its clock in it, and under the names of a testbench', () => {
    const lines = [
      '$timescale 1 ns $end $scope module tb $end $scope module dut $end',
      '$var wire 1 c clk $end $var wire 1 g go $end $upscope $end $upscope $end $enddefinitions $end',
      '#0 0c 1g #5 1c #7 0g #10 0c #15 1c #20 0c #25 1c #30 0c',
    ];
    writeFileSync(at('clocked.vcd'), lines.join('\n'));
    const { json } = computed(at('clocked.vcd'), '--out', at('clocked-all.vcd'));
    expect(json).toMatchObject({ stored: 1, disagreements: [] });
    const value = (time: number) =>
      nimble(
        ...['wave', 'value', at('clocked-all.vcd'), '--signal', 'blink.u_counter.value'],
        ...['--at', `${time}ns`, '--json'],
      ).json.value;
    expect([4, 5, 14, 15, 24, 25].map(value)).toEqual(['xxx', '000', '000', '011', '011', '110']);
  });

  test('a record of something else: what disagrees is told with its sample, and the work counts as failed', () => {
    // What was recorded counts for what follows, so that the sample behind the wrong one disagrees too.
    const { status, json } = computed(dump([...COUNTED.slice(0, 4), [0, 1], [0, 1]]));
    expect(status).toBe(1);
    expect(json.disagreements).toEqual([
      { signal: 'blink.odd', sample: 4, recorded: '1', computed: '0', samples: 2, means: 'outside' },
    ]);
    expect(computed(dump(COUNTED, ['clk', 'come', 'even'])).json.problem).toMatchObject({ code: 'nothing-recorded' });
    writeFileSync(at('bad.vcd'), '$timescale 1 ns $end $enddefinitions $end #0 1?');
    expect(computed(at('bad.vcd')).json.problem).toMatchObject({ code: 'bad-record' });
    writeFileSync(at('bad.json'), '{"format":"nimble-capture","version":1}');
    expect(computed(at('bad.json')).json.problem).toMatchObject({ code: 'capture-file' });
  });
});

describe('a capture of the demo', () => {
  test('is taken by the plan, computed, becomes a testbench that agrees, and is refused for other sources', () => {
    const demo = 'demo/lockhouse';
    const see = ['--see', 'u_sequencer', '--see', 'u_levels'];
    const planned = nimble(
      ...['replay', 'plan', demo, ...see, '--insist', 'u_sequencer.state', '--insist', 'u_levels.chamber'],
      ...['--stored-bits', '40', '--out', at('demo.plan.json'), '--json'],
    );
    expect(planned.json.stored).toBeLessThanOrEqual(40);
    const fewest = nimble('replay', 'plan', demo, '--see', 'u_sequencer', '--stored-bits', '16', '--json');
    expect(fewest.json.factor).toBeGreaterThan(10);
    const captured = nimble('capture', demo, '--plan', at('demo.plan.json'), '--out', at('demo.json'), ...BENCH);
    expect(captured.status).toBe(0);
    const all = nimble(
      'replay',
      'compute',
      at('demo.json'),
      '--design',
      demo,
      ...see,
      '--out',
      at('demo.vcd'),
      '--json',
    );
    expect([all.status, all.json]).toMatchObject([0, { samples: 1024, disagreements: [] }]);
    const bench = nimble(
      ...['replay', 'testbench', at('demo.json'), '--design', demo, ...see, '--instance', 'u_sequencer'],
      ...['--unknown', 'zeros', '--out', at('bench'), '--json'],
    );
    expect(bench.json).toMatchObject({ testbench: 'replay_sequencer', samples: 1024 });
    const simulated = nimble('sim', at('bench'), '--testbench', 'replay_sequencer', '--json');
    expect(simulated.json).toMatchObject({
      finished: '$finish',
      output: ['replay_sequencer: 1024 samples, no difference from the hardware'],
    });
    // Another design under the same names.
    mkdirSync(at('other'), { recursive: true });
    nimbleCopy(demo, at('other'));
    const other = (...more: string[]) =>
      nimble('replay', 'compute', at('demo.json'), '--design', at('other'), ...see, ...more, '--json');
    expect([other().status, other().json.problem]).toMatchObject([1, { code: 'another-build' }]);
    expect(other('--any-build').json).toMatchObject({ samples: 1024 });
  });
});

/** The demo with one line of its sequencer changed. */
function nimbleCopy(from: string, to: string): void {
  const text = readFileSync(`${from}/nimble.json`, 'utf8');
  writeFileSync(`${to}/nimble.json`, text);
  mkdirSync(`${to}/rtl`, { recursive: true });
  for (const name of ['lockhouse', 'sequencer', 'levels', 'tick', 'debounce', 'converter', 'chamber', 'display'])
    writeFileSync(
      `${to}/rtl/${name}.v`,
      readFileSync(`${from}/rtl/${name}.v`, 'utf8').replace("patience <= 9'd200", "patience <= 9'd100"),
    );
  for (const name of ['reporter', 'serial_in', 'serial_out'])
    writeFileSync(`${to}/rtl/${name}.v`, readFileSync(`${from}/rtl/${name}.v`, 'utf8'));
  for (const name of ['pins.csv', 'lockhouse.board.json', 'board.chain.json'])
    writeFileSync(`${to}/${name}`, readFileSync(`${from}/${name}`, 'utf8'));
}
