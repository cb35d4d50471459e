import { LINK } from '../netlist/index.ts';
import { elaborate, type SourceFile } from '../hdl/index.ts';
import { optimise, writeVerilog } from '../netlist/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { insertCores } from './insert.ts';
import type { ProbeMap } from './map.ts';
import type { ProbePlan } from './plan.ts';

/** Ports of the one JTAG user register, by the names they have here. */
const JTAG_PORTS: Readonly<Record<string, string>> = {
  [LINK.tck]: 'jtag_tck',
  [LINK.tdi]: 'jtag_tdi',
  [LINK.capture]: 'jtag_capture',
  [LINK.shift]: 'jtag_shift',
  [LINK.update]: 'jtag_update',
  [LINK.tdo]: 'jtag_tdo',
};

interface TakenAlong {
  /** One module with the design's own ports and `jtag_…`. */
  readonly verilog: string;
  readonly map: ProbeMap;
}

/**
 * A design with its probes as plain Verilog, for a device that gives its fabric one JTAG user register.
 * docs/silicon.md, section 6
 */
export function takeAlong(
  files: readonly SourceFile[],
  settings: {
    readonly top?: string;
    readonly parameters?: Readonly<Record<string, bigint>>;
    readonly cells?: readonly SourceFile[];
  },
  plan: ProbePlan,
  fingerprint: string,
): Result<TakenAlong> {
  const { netlist, hierarchy } = elaborate(files, settings);
  if (!netlist || !hierarchy) return fail(problem('not-understood'));
  const map = insertCores(netlist, plan, fingerprint);
  if (!map.ok) return map;
  const text = writeVerilog(optimise(netlist).netlist, `${hierarchy.name}_probed`, JTAG_PORTS);
  return ok({ verilog: `${header(hierarchy.name, fingerprint)}${text}`, map: map.value });
}

const header = (
  top: string,
  fingerprint: string,
): string => `// ${top} with its probes, build ${fingerprint}. Plain Verilog, one module.
//
// Beside the design's own ports there is one JTAG user register. Connect it to the primitive by which your device gives
// its fabric one:
//   jtag_tck      TCK; every rising edge in Capture-DR and Shift-DR counts, others do no harm
//   jtag_tdi      TDI
//   jtag_capture  high in Capture-DR while the instruction of this register is selected
//   jtag_shift    high in Shift-DR while it is
//   jtag_update   high in Update-DR while it is; not used
//   jtag_tdo      towards TDO: as it stands before each rising edge
// The register frames its scans itself: after Capture-DR it waits for a 1 on TDI, so devices in BYPASS before it do no
// harm.
`;
