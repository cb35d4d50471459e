// What a server would tell a page of a board that nothing was done to yet.
import type { PodStatusEvent } from '../../../core/pod/index.ts';
import type { Job, WorkState } from '../../../server/index.ts';

export const SUMMARY: NonNullable<WorkState['latest']> = {
  id: 1,
  fingerprint: 'f'.repeat(32),
  part: 'CV25',
  top: 'top',
  created: '2026-01-02T03:04:05.000Z',
  milliseconds: 321,
  good: true,
  errors: 0,
  serious: 0,
  warnings: 0,
  resources: {
    ...{ luts: 120, registers: 80, cells: 130, carryBits: 16, memoryLuts: 0, blockRams: 1, ioPins: 9, depth: 4 },
    ...{ lutsOfPart: 2500, blockRamsOfPart: 24 },
  },
  cores: ['recorder r', 'panel p'],
};

export const STATE: WorkState = {
  project: { id: 1, name: 'Lamp', part: 'CV25' },
  latest: null,
  usable: null,
  stale: [],
  files: {},
  pod: {
    address: 'ws://127.0.0.1:4000',
    state: 'connected',
    name: 'desk',
    problem: null,
    capabilities: {
      power: true,
      bootSwitch: true,
      reconfigure: true,
      view: true,
      practice: false,
      controls: [],
    } as never,
  },
  usedBy: null,
  foreign: null,
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
  loadPlan: { steps: [{ device: null, source: { kind: 'build' } }], verify: false },
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

export const BOARD: PodStatusEvent = {
  cable: { attached: true, referenceVolts: 3.3, tckHz: 10e6, leastHz: 1000, mostHz: 30e6 },
  lease: null,
  asked: null,
  speed: 1,
  faults: [],
  view: null,
};

export const job = (over: Partial<Job> & { readonly id: number }): WorkState['jobs'][number] => ({
  kind: 'scan',
  boardKey: 'desk',
  project: 1,
  title: 'Scan',
  state: 'done',
  message: '',
  progress: null,
  problem: null,
  startedAt: Date.parse('2026-01-02T03:04:05Z'),
  endedAt: Date.parse('2026-01-02T03:04:06Z'),
  etaMilliseconds: null,
  ...over,
  isHere: true,
});
