/** A canal lock at the end of the board's wires. Levels in centimetres above the lower pond. */
export interface LockView {
  readonly chamber: number;
  readonly pond: number;
  /** What the motors hold open; `wide` for sluices all the way up. */
  readonly motors: {
    readonly sluiceUpper: boolean;
    readonly sluiceLower: boolean;
    readonly gateUpper: boolean;
    readonly gateLower: boolean;
    readonly wide: boolean;
  };
  /**
   * The last gate that opened at unequal levels, when, in microseconds of the bench, and how many opened at equal ones
   * since.
   */
  readonly surge: {
    readonly gate: 'upper' | 'lower';
    readonly differenceCentimetres: number;
    readonly time: number;
    readonly calmSince: number;
  } | null;
}

/** What a person in front of the board sees, and where the hands last left it. Levels 0 to 1. */
export interface PanelState {
  readonly time: number;
  readonly powered: boolean;
  readonly bootSource: 'flash' | 'jtag';
  /** DONE lamp of each FPGA by its place in the chain; `fpga` is the one the controls belong to. */
  readonly done: Readonly<Record<string, boolean>>;
  readonly fpga: number;
  /** With the pin of the FPGA that each runs to. */
  readonly oscillators: readonly { readonly name: string; readonly pin: string; readonly hz: number }[];
  readonly lamps: readonly {
    readonly name: string;
    readonly label: string;
    readonly pin: string;
    readonly level: number;
    readonly hertz: number | null;
  }[];
  readonly buttons: readonly {
    readonly name: string;
    readonly label: string;
    readonly pin: string;
    readonly down: boolean;
  }[];
  readonly switches: readonly {
    readonly name: string;
    readonly label: string;
    readonly pin: string;
    readonly on: boolean;
  }[];
  /** Eight segment levels for each digit, a to g and the point. */
  readonly digits: readonly (readonly number[])[];
  readonly displays: readonly {
    readonly name: string;
    readonly label: string;
    readonly isOn: boolean;
    readonly rows: readonly string[];
  }[];
  readonly keyboards: readonly {
    readonly name: string;
    readonly label: string;
    readonly keys: readonly string[];
    readonly down: readonly string[];
  }[];
  readonly sensors: readonly {
    readonly name: string;
    readonly label: string;
    readonly value: number;
    readonly low: number;
    readonly high: number;
    readonly unit: string;
  }[];
  /** The canal lock that the board controls, where there is one. */
  readonly lock?: LockView;
}
