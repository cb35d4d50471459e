import { FEED_BYTES, MARROW, MARROW_INSTRUCTION, MARROW_STATE, sealed } from '../../bench/index.ts';
import { parsePinTable } from '../../core/constraints/index.ts';
import { partNamed, type PinBinding } from '../../core/families/index.ts';
import { elaborate, type SourceFile } from '../../core/hdl/index.ts';
import { LINK, type Netlist, optimise, type Port } from '../../core/netlist/index.ts';
import { fail, ok, problem, type Result } from '../../core/result.ts';

/** The primitive by which a Marrow gives its fabric the user register, as ports of the top module. */
const USER_PORTS: Readonly<Record<string, string>> = {
  jtag_tck: LINK.tck,
  jtag_tdi: LINK.tdi,
  jtag_capture: LINK.capture,
  jtag_shift: LINK.shift,
  jtag_update: LINK.update,
  jtag_tdo: LINK.tdo,
};
const ROOM = 'CV25';
const LINE_DIGITS = 100;

interface MarrowWork {
  readonly sources: readonly SourceFile[];
  readonly top: string;
  /** A ports table: port, pin. */
  readonly pins: string;
}

/** Fails with the first error of the sources, or where the part has no room. */
export function marrowSvf({ sources, top, pins }: MarrowWork): Result<string> {
  const { netlist, messages } = elaborate(sources.map(withUserCell), { top });
  const wrong = messages.list.find(({ severity }) => severity === 'error');
  if (wrong || !netlist) return fail(problem('marrow', wrong?.message ?? `There is no ${top}.`, 'Mend the sources.'));
  const part = partNamed(ROOM);
  if (!part) throw new RangeError(ROOM);
  const design = { netlist: withUserPorts(optimise(netlist).netlist), pins: bindingsOf(pins) };
  const stream = part.family.stream.make(part, design, new Uint8Array(16));
  return stream.ok ? ok(svfOf(sealed(stream.value), top)) : stream;
}

/**
 * The primitive `marrow_user` taken for what it is: its wires become ports of the module around it, which the part then
 * connects to its user register.
 */
function withUserCell({ name, text }: SourceFile): SourceFile {
  const cell = /\bmarrow_user\s+\w+\s*\(([^;]*)\)\s*;/.exec(text);
  if (!cell) return { name, text };
  const ports = [...(cell[1] ?? '').matchAll(/\.(\w+)\s*\(\s*(\w+)\s*\)/g)].map(
    ([, port = '', wire = '']) => [`jtag_${port.toLowerCase()}`, wire] as const,
  );
  const header = ports.map(([port]) => `${port === 'jtag_tdo' ? 'output' : 'input'} ${port}_`).join(', ');
  const joins = ports.map(([port, wire]) =>
    port === 'jtag_tdo' ? `  assign ${port}_ = ${wire};` : `  assign ${wire} = ${port}_;`,
  );
  return { name, text: text.replace(cell[0], joins.join('\n')).replace(/\)\s*;/, `, ${header});`) };
}

function withUserPorts(netlist: Netlist): Netlist {
  const nameOf = (name: string): string => USER_PORTS[name.replace(/_$/, '')] ?? name;
  const renamed = (port: Port): Port => ({ ...port, name: nameOf(port.name) });
  return {
    ...netlist,
    nodes: netlist.nodes.map((node) => (node.op === 'input' ? { ...node, name: nameOf(node.name) } : node)),
    inputs: netlist.inputs.map(renamed),
    outputs: netlist.outputs.map(renamed),
  };
}

const bindingsOf = (table: string): PinBinding[] =>
  parsePinTable(table).map(({ name, pin, standard }) => {
    const [, port = name, bit = '0'] = /^(.*)\[(\d+)\]$/.exec(name) ?? [];
    return { port, bit: Number(bit), pin, standard, drive: 8, pull: 'none', slew: 'slow' };
  });

/** Feeds an envelope, and compares the state register with "runs". */
function svfOf(envelope: Uint8Array, top: string): string {
  const { FEED_BEGIN, FEED, FEED_END, STATE } = MARROW_INSTRUCTION;
  const { length, alive, runs, refused } = MARROW_STATE;
  const hex = (value: number) => value.toString(16).toUpperCase().padStart(2, '0');
  const instruction = (opcode: number) => `SIR ${MARROW.irLength} TDI (${hex(opcode)});\n`;
  const lines = [`! ${top} for ${MARROW.name}\n`, 'TRST OFF;\nENDIR IDLE;\nENDDR IDLE;\nSTATE RESET;\nSTATE IDLE;\n'];
  lines.push(instruction(FEED_BEGIN), 'RUNTEST IDLE 16 TCK;\n', instruction(FEED));
  for (let at = 0; at < envelope.length; at += FEED_BYTES) {
    const piece = new Uint8Array(FEED_BYTES);
    piece.set(envelope.subarray(at, at + FEED_BYTES));
    // The rightmost digit is shifted first.
    const digits = [...piece].reverse().map(hex).join('');
    lines.push(`SDR ${piece.length * 8} TDI (${digits.replace(new RegExp(`.{${LINE_DIGITS}}`, 'g'), '$&\n')});\n`);
  }
  const [wanted, mask] = [(1 << alive) | (1 << runs), (1 << alive) | (1 << runs) | (1 << refused)];
  lines.push(instruction(FEED_END), 'RUNTEST IDLE 100 TCK;\n', instruction(STATE));
  lines.push(`SDR ${length} TDI (00) TDO (${hex(wanted)}) MASK (${hex(mask)});\n`);
  return lines.join('');
}
