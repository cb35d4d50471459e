import type { Bits } from '../bits/index.ts';
import type { TapState } from '../jtag/index.ts';

/** @source Serial Vector Format specification, revision E: names of TAP states */
export const SVF_STATES: Readonly<Record<string, TapState>> = {
  RESET: 'Test-Logic-Reset',
  IDLE: 'Run-Test/Idle',
  DRSELECT: 'Select-DR-Scan',
  DRCAPTURE: 'Capture-DR',
  DRSHIFT: 'Shift-DR',
  DREXIT1: 'Exit1-DR',
  DRPAUSE: 'Pause-DR',
  DREXIT2: 'Exit2-DR',
  DRUPDATE: 'Update-DR',
  IRSELECT: 'Select-IR-Scan',
  IRCAPTURE: 'Capture-IR',
  IRSHIFT: 'Shift-IR',
  IREXIT1: 'Exit1-IR',
  IRPAUSE: 'Pause-IR',
  IREXIT2: 'Exit2-IR',
  IRUPDATE: 'Update-IR',
};

export const STABLE_STATES: readonly string[] = ['RESET', 'IDLE', 'DRPAUSE', 'IRPAUSE'];

export const SCAN_COMMANDS = ['SDR', 'SIR', 'HDR', 'HIR', 'TDR', 'TIR'] as const;
export type ScanName = (typeof SCAN_COMMANDS)[number];

/** The vectors of a scan as written; null where the file says nothing. Bit 0 is shifted first. */
interface ScanFields {
  readonly tdi: Bits | null;
  readonly tdo: Bits | null;
  readonly mask: Bits | null;
  readonly smask: Bits | null;
}

/**
 * One command of a file. `line` is where it begins, `end` the byte behind its semicolon; times in seconds, frequencies
 * in hertz.
 */
export type SvfCommand = { readonly line: number; readonly end: number } & (
  | ({ readonly kind: 'scan'; readonly name: ScanName; readonly length: number } & ScanFields)
  | { readonly kind: 'end-state'; readonly register: 'DR' | 'IR'; readonly state: TapState }
  | { readonly kind: 'frequency'; readonly hz: number | null }
  | {
      readonly kind: 'runtest';
      readonly runState: TapState | null;
      readonly count: number;
      readonly clock: 'TCK' | 'SCK';
      readonly least: number;
      readonly most: number | null;
      readonly endState: TapState | null;
    }
  | { readonly kind: 'state'; readonly path: readonly TapState[] }
  | { readonly kind: 'trst'; readonly mode: 'ON' | 'OFF' | 'Z' | 'ABSENT' }
);

/** What a file says that is no SVF. */
export interface SvfTrouble {
  readonly code: string;
  readonly line: number;
  readonly message: string;
  readonly tryNext: readonly string[];
}
