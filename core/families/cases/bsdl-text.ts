import {
  boundaryLength,
  boundaryPins,
  CELLS_A_PIN,
  CONTROL_CELL,
  INPUT_CELL,
  OUTPUT_CELL,
  testPins,
} from './boundary.ts';
import { caseDrawing } from './packages.ts';

/** What a boundary-scan description says of a part besides its pins. `irCapture` is binary digits. */
interface Described {
  readonly name: string;
  readonly package: string;
  readonly idcode: number;
  readonly irLength: number;
  readonly irCapture: string;
  readonly instructions: Readonly<Record<string, number>>;
  readonly registers: string;
}

/** The boundary-scan description of a part, as its file in demo/devices holds it. @source IEEE 1149.1, annex B */
export function bsdlText(part: Described): string {
  const pins = boundaryPins(part.package);
  const tap = testPins(part.package);
  const supplies = caseDrawing(part.package)
    .pins.filter((pin) => pin.kind === 'supply')
    .map((pin) => pin.name);
  const codes = Object.entries(part.instructions)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([instruction, code]) => `${instruction} (${code.toString(2).padStart(part.irLength, '0')})`);
  const secret = ['SPI_LINK', 'FABRIC_LINK'].filter((instruction) => instruction in part.instructions);
  const id = (part.idcode >>> 0).toString(2).padStart(32, '0');
  const cells = pins.flatMap((pin, i) => [
    `${i * CELLS_A_PIN + INPUT_CELL} (BC_1, IO_${pin}, input, X)`,
    `${i * CELLS_A_PIN + OUTPUT_CELL} (BC_1, IO_${pin}, output3, X, ${i * CELLS_A_PIN + CONTROL_CELL}, 1, Z)`,
    `${i * CELLS_A_PIN + CONTROL_CELL} (BC_1, *, control, 1)`,
  ]);
  return `-- Boundary-scan description of ${part.name}, an invented part, in package ${part.package}
entity ${part.name} is
  generic (PHYSICAL_PIN_MAP : string := "${part.package}");
  port (
    TCK, TMS, TDI : in bit;
    TDO : out bit;
    DONE : linkage bit;
    SUPPLY : linkage bit_vector(1 to ${supplies.length});
${wrapped(
  pins.map((pin) => `IO_${pin}`),
  ', ',
  '    ',
)} : inout bit
  );
  use STD_1149_1_2001.all;
  attribute COMPONENT_CONFORMANCE of ${part.name} : entity is "STD_1149_1_2001";
  attribute PIN_MAP of ${part.name} : entity is PHYSICAL_PIN_MAP;
  constant ${part.package} : PIN_MAP_STRING :=
${strings([`TCK : ${tap.tck}`, `TMS : ${tap.tms}`, `TDI : ${tap.tdi}`, `TDO : ${tap.tdo}`, `DONE : ${tap.done}`, `SUPPLY : (${supplies.join(', ')})`, ...pins.map((pin) => `IO_${pin} : ${pin}`)])};
  attribute TAP_SCAN_IN of TDI : signal is true;
  attribute TAP_SCAN_MODE of TMS : signal is true;
  attribute TAP_SCAN_OUT of TDO : signal is true;
  attribute TAP_SCAN_CLOCK of TCK : signal is (40.0e6, BOTH);
  attribute INSTRUCTION_LENGTH of ${part.name} : entity is ${part.irLength};
  attribute INSTRUCTION_OPCODE of ${part.name} : entity is
${strings(codes)};
  attribute INSTRUCTION_CAPTURE of ${part.name} : entity is "${part.irCapture}";
${secret.length > 0 ? `  attribute INSTRUCTION_PRIVATE of ${part.name} : entity is "${secret.join(', ')}";\n` : ''}  attribute IDCODE_REGISTER of ${part.name} : entity is
    "${id.slice(0, 4)}" &              -- version
    "${id.slice(4, 20)}" &  -- part
    "${id.slice(20, 31)}" &       -- manufacturer
    "${id.slice(31)}";
  attribute REGISTER_ACCESS of ${part.name} : entity is
${strings(splitList(part.registers))};
  attribute BOUNDARY_LENGTH of ${part.name} : entity is ${boundaryLength(part.package)};
  attribute BOUNDARY_REGISTER of ${part.name} : entity is
${strings(cells)};
end ${part.name};
`;
}

const strings = (items: readonly string[]): string =>
  items.map((item, i) => `    "${item}${i < items.length - 1 ? ',' : ''}"`).join(' &\n');

const splitList = (text: string): string[] => text.split(/,\s*(?![^()]*\))/);

function wrapped(items: readonly string[], between: string, indent: string): string {
  const lines: string[] = [];
  let line = indent;
  for (const [i, item] of items.entries()) {
    const piece = `${item}${i < items.length - 1 ? between : ''}`;
    if (line.length + piece.length > 110) {
      lines.push(line.trimEnd());
      line = indent;
    }
    line += piece;
  }
  return [...lines, line].join('\n');
}
