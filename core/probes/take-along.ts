import { LINK } from '../netlist/index.ts';
import { elaborate, type SourceFile } from '../hdl/index.ts';
import { type Netlist, optimise, writeVerilog } from '../netlist/index.ts';
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
  /** A module around it with a place for the device's own primitive. */
  readonly wrapper: string;
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
  return ok({ ...writtenAlong(optimise(netlist).netlist, hierarchy.name, fingerprint), map: map.value });
}

/** An optimised netlist with its probes as the two files that are taken along. */
export function writtenAlong(netlist: Netlist, top: string, fingerprint: string): Omit<TakenAlong, 'map'> {
  const text = writeVerilog(netlist, `${top}_probed`, JTAG_PORTS);
  return { verilog: `${header(top, fingerprint)}${text}`, wrapper: wrapperOf(netlist, top) };
}

/** The module that is to be filled in: the design's own ports, and a place for the device's primitive. */
function wrapperOf({ inputs, outputs }: Netlist, top: string): string {
  const own = (name: string) => !(name in JTAG_PORTS) && !name.startsWith('$');
  const range = (width: number) => (width === 1 ? '' : ` [${width - 1}:0]`);
  const ports = [
    ...inputs
      .filter(({ name }) => own(name))
      .map(({ name, width }) => ({ name, line: `input${range(width)} ${name}` })),
    ...outputs
      .filter(({ name }) => own(name))
      .map(({ name, width, enable }) => ({
        name,
        line: `${enable === undefined ? 'output' : 'inout'}${range(width)} ${name}`,
      })),
  ].filter(({ name }, i, all) => all.findLastIndex((one) => one.name === name) === i);
  const jtag = Object.values(JTAG_PORTS);
  return `// Around ${top} with its probes: fill in the primitive by which your device gives its fabric a JTAG user register,
// and make this the top module. Everything else is as it was; the pins are ${top}'s.
module ${top}_on_board (
${ports.map(({ line }) => `  ${line}`).join(',\n')}
);
  wire ${jtag.join(', ')};

  // FILL IN: the user register of your device. Names differ; what each wire is stands in the other file.
  // user_register_primitive u_user (
  //   .TCK(jtag_tck), .TDI(jtag_tdi), .CAPTURE(jtag_capture), .SHIFT(jtag_shift), .UPDATE(jtag_update), .TDO(jtag_tdo)
  // );

  ${top}_probed u_probed (
${[...ports.map(({ name }) => name), ...jtag].map((name) => `    .${name}(${name})`).join(',\n')}
  );
endmodule
`;
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
