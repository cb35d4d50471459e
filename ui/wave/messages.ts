import type { Project, TextFile } from '../../core/build/index.ts';
import type {
  Disagreement,
  Explanation,
  HardwareOnly,
  Meaning,
  Replay,
  TestbenchFill,
} from '../../core/replay/index.ts';
import type { Problem, Result } from '../../core/result.ts';
import type {
  Alignment,
  Axis,
  BitMeasures,
  Capture,
  Comparison,
  Decoder,
  Found,
  Frame,
  GapStyle,
  Hint,
  Laid,
  Measure,
  Oddity,
  Ranges,
  ReadAt,
  SignalRow,
  StepRecord,
  Steps,
  Trace,
  WordMeasures,
} from '../../core/wave/index.ts';

/** A capture as the server sends it; `data` is base64. */
export interface ReceivedCapture {
  readonly id: number;
  readonly created: string;
  readonly about: Omit<Capture, 'data'>;
  readonly data: string;
}

/** A capture with the design that it was taken from, and what of that is to be seen. */
export interface ReplayAsk {
  readonly capture: ReceivedCapture;
  readonly project: Project;
  readonly see: readonly string[];
  /** A run of the testbench of an instance, to be laid beside it; null for none. */
  readonly beside: SimulatedBeside | null;
}

/** How a run of a record's testbench ended, with its value change dump. */
export interface SimulatedBeside {
  readonly instance: string;
  readonly testbench: string;
  readonly dump: Blob;
  readonly finished: boolean;
  readonly printed: string;
}

/** What a replay found, beside the signals themselves. */
export interface ReplayFacts
  extends Pick<Replay, 'stored' | 'seen' | 'samples' | 'cut' | 'unknown' | 'missing' | 'unmatched'> {
  readonly clock: string;
  /** What was read of signals other than in every sample. */
  readonly readings: readonly { readonly sample: number; readonly how: ReadAt['how']; readonly bits: number }[];
  /** Something was read at the trigger, but at no sample of the record. */
  readonly isReadBehind: boolean;
  readonly disagreements: readonly (Disagreement & { readonly means: Meaning })[];
  /** Null where nothing was simulated. */
  readonly simulation: {
    readonly instance: string;
    /** How it ended, and what it printed. */
    readonly finished: boolean;
    readonly printed: string;
    readonly differences: readonly HardwareOnly[];
  } | null;
}

export interface OpenSignal {
  /** Not recorded: it was computed from what was. */
  readonly computed?: true;

  readonly name: string;
  readonly width: number;
  readonly signed: boolean;
  readonly domain: string;
  readonly names?: Readonly<Record<string, string>> | undefined;
  readonly real?: boolean;
}

/** A recording whose samples stay in the worker. */
export interface Opened {
  readonly axis: Axis;
  readonly signals: readonly OpenSignal[];
  readonly oddities: readonly Oddity[];
  /** What was wrong with a file, or that only a part of it was read. */
  readonly notes: readonly string[];
  /** Of a record from which a design was computed. */
  readonly replay?: ReplayFacts;
}

/** What a row needs to be drawn. */
export interface DrawnTrace {
  readonly trace: Trace;
  readonly steps: Steps | null;
  /** For analog rows. */
  readonly ranges: Ranges | null;
}

export interface Measured {
  readonly rowId: string;
  readonly measures: BitMeasures | WordMeasures;
}

/** What the worker can be asked, and what it answers. */
export interface Calls {
  open: {
    readonly ask: {
      readonly captures: readonly ReceivedCapture[];
      readonly gaps: GapStyle;
      readonly laid: Laid;
      readonly hints: Readonly<Record<string, Hint>>;
    };
    readonly answer: Result<Opened>;
  };
  openFile: { readonly ask: { readonly file: File }; readonly answer: Result<Opened> };
  openSteps: {
    readonly ask: { readonly steps: StepRecord; readonly title: string };
    readonly answer: Result<Opened>;
  };
  openReplay: {
    readonly ask: ReplayAsk & { readonly gaps: GapStyle };
    readonly answer: Result<Opened>;
  };
  /** One step back from a signal at a tick; null where the design has no such signal. */
  why: {
    readonly ask: { readonly signal: string; readonly tick: number };
    readonly answer: Explanation | null;
  };
  /** The record as a testbench of an instance, with everything that it needs. */
  testbenchFiles: {
    readonly ask: { readonly instance: string; readonly fill: TestbenchFill };
    readonly answer: Result<{ readonly name: string; readonly files: readonly TextFile[] }>;
  };
  /** The same as one zip. */
  testbench: {
    readonly ask: { readonly instance: string; readonly fill: TestbenchFill };
    readonly answer: Result<{ readonly name: string; readonly zip: Uint8Array }>;
  };
  /** The record as a table of vectors. */
  table: {
    readonly ask: { readonly instance: string };
    readonly answer: Result<{ readonly name: string; readonly text: string; readonly rows: number }>;
  };
  row: {
    readonly ask: { readonly row: SignalRow; readonly analog: boolean; readonly signed: boolean };
    readonly answer: DrawnTrace | null;
  };
  overview: { readonly ask: { readonly columns: number }; readonly answer: Uint32Array };
  find: { readonly ask: { readonly text: string }; readonly answer: Result<Found> };
  check: { readonly ask: { readonly text: string }; readonly answer: Problem | null };
  measure: {
    readonly ask: { readonly rows: readonly SignalRow[]; readonly from: number; readonly to: number };
    readonly answer: readonly Measured[];
  };
  decode: {
    readonly ask: { readonly decoder: Decoder };
    readonly answer: Result<{ readonly frames: readonly Frame[]; readonly note: string | null }>;
  };
  compare: {
    readonly ask: { readonly other: ReceivedCapture | File; readonly alignment: Alignment; readonly by: Measure };
    readonly answer: Result<Comparison>;
  };
}

export type Call = keyof Calls;

/** What the worker offers its page. */
export interface WaveWorker {
  answer<C extends Call>(call: C, ask: Calls[C]['ask']): Promise<Calls[C]['answer']>;
  /** Hears how much of a file has been read. */
  follow(onProgress: (share: number) => void): void;
}
