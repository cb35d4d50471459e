// The parts of the pages that compute: states of the stations, editing a plan, decoding a capture, words for numbers.
import { describe, expect, test } from 'vitest';
import type { SignalInfo } from '../../core/build/index.ts';
import { emptyPlan } from '../../core/probes/index.ts';
import { problem } from '../../core/result.ts';
import type { Job, WorkState } from '../../server/index.ts';
import {
  addedPlan,
  foreignSignals,
  newRecorder,
  proposedClock,
  setPanel,
  setRecorder,
  toggleUse,
  usesOf,
} from '../../ui/probe/plan-edit.ts';
import { duration, frequency, quantity } from '../../ui/shared/format.ts';
import { parseFrequency } from '../../ui/design/clocks/parse-frequency.ts';
import { merged, placed, rowsFor } from '../../ui/design/pins/rows.ts';
import { matches } from '../../ui/shared/matches.ts';
import { stationState } from '../../ui/shell/stations.ts';
import { timeText } from '../../ui/wave/draw.ts';

const summary = {
  id: 1,
  fingerprint: 'f'.repeat(32),
  part: 'CV25',
  top: 't',
  created: '',
  milliseconds: 1,
  good: true,
  errors: 0,
  serious: 0,
  warnings: 0,
  resources: {
    luts: 1,
    registers: 1,
    cells: 1,
    carryBits: 0,
    memoryLuts: 0,
    blockRams: 0,
    ioPins: 1,
    depth: 1,
    lutsOfPart: 1,
    blockRamsOfPart: 1,
  },
  cores: ['recorder r', 'panel p'],
};
const empty: WorkState = {
  project: { id: 1, name: 'x', part: 'CV25' },
  latest: null,
  usable: null,
  stale: [],
  files: {},
  pod: { address: 'ws://x', state: 'connected', name: 'b', problem: null, capabilities: null },
  usedBy: null,
  foreign: null,
  line: { first: 1, last: 0, version: 0, received: 0, sent: 0, wrong: 0, fit: null },
  scan: null,
  running: null,
  kept: null,
  armed: [],
  armedBefore: [],
  latestCapture: null,
  planned: { recorders: 0, levers: 0, gauges: 0 },
  jobs: [],
  chain: { from: null, file: null, chain: null, problem: null, rows: null },
  answers: [],
  ladder: null,
  sweep: null,
  integrity: null,
  interconnect: null,
  loadPlan: { steps: [], verify: false },
  loadReport: null,
  svf: { file: null, mode: 'idle', line: null, commands: 0, pauseAt: null, log: [], result: null },
  flash: null,
  stageLog: null,
  keepChoice: { layout: null, image: null, replaceGolden: false, rehearseBy: 'power', values: {} },
  brokenWrite: null,
  rehearsal: null,
  flashRead: null,
  comparison: null,
};
const job = (kind: Job['kind'], state: Job['state'], isHere = true): Job & { readonly isHere: boolean } => ({
  isHere,
  boardKey: '',
  project: 1,
  id: 1,
  kind,
  title: kind,
  state,
  progress: null,
  startedAt: 0,
  endedAt: state === 'running' ? null : 1,
  etaMilliseconds: null,
  message: '',
  problem: null,
});
const running = {
  done: true,
  device: 1,
  fingerprint: summary.fingerprint,
  status: {
    startSeen: true,
    idcodeMismatch: false,
    crcError: false,
    memoryClear: true,
    done: true,
    source: 'jtag' as const,
    bootSource: 'flash' as const,
    enabled: false,
    checked: true,
    fellBack: false,
    fromUpdate: false,
    raw: '',
  },
};
const kept = (fingerprint: string, project = 1) => ({
  fingerprint,
  chip: '',
  time: '',
  layout: null,
  project,
  by: null,
});
const says = (path: string, change: Partial<WorkState>) => {
  const { tone, word } = stationState(path, { ...empty, ...change });
  return `${tone}: ${word}`;
};

describe('a station’s dot and word', () => {
  test('Bench', () => {
    expect(says('/bench', {})).toBe('none: not scanned');
    expect(says('/bench', { pod: { ...empty.pod, state: 'lost' } })).toBe('failed: no pod');
    expect(says('/bench', { pod: { ...empty.pod, state: 'refused' } })).toBe('failed: token refused');
    expect(says('/bench', { jobs: [job('scan', 'running')] })).toBe('running: scanning');
    expect(
      says('/bench', {
        scan: {
          devices: [{ index: 0, idcode: 1, irLength: 4, part: null, candidates: [], irCapture: null }],
          irTotal: 4,
          tckCycles: 1,
          problems: [],
          time: '',
        },
      }),
    ).toBe('ready: 1 device');
    expect(
      says('/bench', {
        scan: { devices: [], irTotal: 0, tckCycles: 0, problems: [problem('no-power', '')], time: '' },
      }),
    ).toBe('failed: no power');
  });
  test('Design', () => {
    expect(says('/design', {})).toBe('none: not built');
    expect(says('/design', { latest: summary })).toBe('ready: built');
    expect(
      says('/design', { latest: summary, stale: [{ what: 'a.v', change: 'changed', touches: 'everything' }] }),
    ).toBe('stale: stale');
    expect(says('/design', { latest: { ...summary, good: false, errors: 1 } })).toBe('failed: 1 error');
  });
  test('Load and Keep', () => {
    expect(says('/load', { usable: summary })).toBe('none: not asked');
    expect(
      says('/load', {
        usable: summary,
        running: { ...running, fingerprint: null, done: false, status: { ...running.status, done: false } },
      }),
    ).toBe('none: empty');
    expect(says('/load', { usable: summary, running, usedBy: 'nimble command' })).toBe('none: in other hands');
    expect(says('/load', { usable: summary, running })).toBe('ready: running');
    expect(says('/load', { usable: { ...summary, fingerprint: '0' }, running })).toBe('stale: other build');
    expect(says('/load', { usable: summary, jobs: [job('load', 'failed')] })).toBe('failed: failed');
    // What failed for another board or project is not said of this one.
    for (const path of ['/load', '/keep'])
      expect(
        says(path, { usable: summary, running, jobs: [job('load', 'failed', false), job('keep', 'failed', false)] }),
      ).not.toMatch(/failed/);
    expect(says('/keep', { usable: summary, kept: kept(summary.fingerprint) })).toBe('ready: kept');
    expect(says('/keep', { usable: summary, kept: kept('0') })).toBe('stale: older build');
    expect(says('/keep', { usable: summary, kept: kept('0', 2) })).toBe('none: other design');
  });
  test('Probe, Capture and Drive', () => {
    expect(says('/probe', {})).toBe('none: nothing chosen');
    expect(
      says('/probe', {
        planned: { recorders: 1, levers: 0, gauges: 0 },
        stale: [{ what: 'probe plan', change: 'changed', touches: 'everything' }],
      }),
    ).toBe('stale: build needed');
    expect(says('/probe', { planned: { recorders: 1, levers: 1, gauges: 1 } })).toBe('ready: 3 probes');
    expect(says('/capture', { latestCapture: 4 })).toBe('ready: capture 4');
    expect(says('/drive', { usable: summary })).toBe('stale: not loaded');
    expect(says('/drive', { usable: summary, running })).toBe('ready: live');
    expect(says('/drive', { usable: { ...summary, cores: [] } })).toBe('none: no panel');
  });
});

describe('editing a plan', () => {
  const first = { recorder: 0, panel: 0 };
  const known = new Map(
    Object.entries({ 't.a': 'clk', 't.b': 'clk', 't.far': 'clk10', 't.free': '' }).map(([name, domain]) => [
      name,
      { name, domain, width: 1 } as SignalInfo,
    ]),
  );

  test('a signal is chosen and unchosen; what is empty goes away; settings stay', () => {
    let plan = toggleUse(emptyPlan, first, 't.a', 'record', 't.clk');
    plan = setRecorder(toggleUse(plan, first, 't.b', 'record', 't.clk'), 0, { depth: 4096 });
    expect(plan.recorders).toEqual([{ name: 'main', clock: 't.clk', depth: 4096, signals: ['t.a', 't.b'] }]);
    plan = toggleUse(toggleUse(plan, first, 't.a', 'lever', 't.clk'), first, 't.a', 'gauge', 't.clk');
    expect([...usesOf(plan, first, 't.a')].sort()).toEqual(['gauge', 'lever', 'record']);
    plan = setPanel(plan, 0, { clock: 't.other' });
    expect([plan.panels[0]?.clock, plan.recorders[0]?.clock]).toEqual(['t.other', 't.clk']);
    for (const use of ['lever', 'gauge'] as const) plan = toggleUse(plan, first, 't.a', use, 't.clk');
    for (const name of ['t.a', 't.b']) plan = toggleUse(plan, first, name, 'record', 't.clk');
    expect(plan).toEqual(emptyPlan);
  });

  test('a second recorder takes what is chosen for it, under a name of its own', () => {
    let plan = toggleUse(emptyPlan, first, 't.a', 'record', 't.clk');
    plan = { ...plan, recorders: [...plan.recorders, newRecorder(plan, 't.clk10', ['t.far'])] };
    plan = toggleUse(plan, { recorder: 1, panel: 0 }, 't.b', 'record', 't.clk');
    expect(plan.recorders.map(({ name, signals }) => [name, signals])).toEqual([
      ['main', ['t.a']],
      ['main 2', ['t.far', 't.b']],
    ]);
  });

  test('signals of another clock are named until they come through a synchroniser; the clock of most is proposed', () => {
    const recorder = { name: 'r', clock: 't.clk', depth: 64, signals: ['t.a', 't.far', 't.free'] };
    expect(foreignSignals(recorder, known)).toEqual(['t.far']);
    expect(foreignSignals({ ...recorder, synchronised: ['t.far'] }, known)).toEqual([]);
    expect([proposedClock(['t.far', 't.free'], known), proposedClock(['t.free'], known)]).toEqual(['clk10', null]);
  });

  test('plans stand on a shelf under names of their own', () => {
    const shelf = addedPlan(addedPlan([], 'plan', emptyPlan, true), 'plan', emptyPlan, false);
    expect(shelf.map(({ name, inBuild }) => [name, inBuild])).toEqual([
      ['plan', true],
      ['plan 2', false],
    ]);
  });
});

describe('a waveform', () => {
  const axis = { title: 'r', length: 100_000, triggers: [0], gaps: [], stored: null, sampled: true };
  test.each([
    [12, 12e6, '1 µs'],
    [-1, 12e6, '-83.333 ns'],
    [12_000, 12e6, '1 ms'],
    [0, 12e6, '0 ns'],
    [25, 10e6, '2.5 µs'],
  ])('%i samples at %i Hz are %s', (samples, rate, text) =>
    expect(timeText({ ...axis, tickSeconds: 1 / rate }, samples)).toBe(text),
  );
});

test('numbers carry their units', () => {
  expect([frequency(12e6), frequency(1.43), frequency(32_768)]).toEqual(['12 MHz', '1.43 Hz', '32.77 kHz']);
  expect([duration(12), duration(1500), duration(125_000)]).toEqual(['12 ms', '1.5 s', '2 min 5 s']);
  expect([quantity(2_703_840, 'bit'), quantity(500, 'B'), quantity(204_800, 'B'), quantity(3, 'steps')]).toEqual([
    '2.70 Mbit',
    '500 B',
    '200 KiB',
    '3 steps',
  ]);
});

describe('small things pages compute', () => {
  test('frequencies and periods in usual units', () => {
    expect(['12 MHz', '12e6', '83.3 ns', '1 ms', '0,5 kHz'].map(parseFrequency)).toEqual([
      12e6,
      12e6,
      Number((1 / 83.3e-9).toPrecision(12)),
      1000,
      500,
    ]);
    expect(['', 'fast', '-3 Hz', '12 parsec'].map(parseFrequency)).toEqual([null, null, null, null]);
  });
  test('a filter takes words in any order and * for anything', () => {
    expect(matches('lock.u_chamber.level', 'level lock')).toBe(true);
    expect(matches('lock.u_chamber.level', 'u_*level')).toBe(true);
    expect(matches('lock.u_chamber.level', 'gate')).toBe(false);
    expect(matches('a[3]', 'A[3]')).toBe(true);
  });
  test('the ports table has a row for each bit, and keeps lines of ports that are gone', () => {
    const entry = (name: string, pin: string) => ({ name, pin, standard: '', drive: '', pull: '', slew: '', line: 0 });
    const rows = rowsFor(
      [entry('old', 'P9'), entry('led[1]', 'P2')],
      [{ name: 'led', width: 2, direction: 'output', clock: false }],
    );
    expect(rows.map(({ name, pin }) => `${name} ${pin}`)).toEqual(['led[0] ', 'led[1] P2', 'old P9']);
    expect(placed(rows).map((row) => row.name)).toEqual(['led[1]', 'old']);
    expect(merged(rows, [entry('led[0]', 'P1'), entry('new', 'P5')]).map(({ name, pin }) => `${name} ${pin}`)).toEqual([
      'led[0] P1',
      'led[1] P2',
      'old P9',
      'new P5',
    ]);
  });
});
