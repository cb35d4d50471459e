import { own } from '../lists.ts';
import type { BsdlEntity, BsdlProblem } from './model.ts';
import type { RawEntity } from './parse.ts';

const MANDATORY = [
  'INSTRUCTION_LENGTH',
  'INSTRUCTION_OPCODE',
  'INSTRUCTION_CAPTURE',
  'BOUNDARY_LENGTH',
  'BOUNDARY_REGISTER',
  'TAP_SCAN_IN',
  'TAP_SCAN_OUT',
  'TAP_SCAN_MODE',
  'TAP_SCAN_CLOCK',
];
/** JEP106 code that the standard keeps for nobody. */
const FORBIDDEN_MANUFACTURER = '00001111111';
const DRIVES = new Set(['OUTPUT2', 'OUTPUT3', 'BIDIR']);
const READS = new Set(['INPUT', 'CLOCK', 'BIDIR']);

/**
 * The rules of the standard that a description must keep. @source IEEE 1149.1, clauses on instructions, identification
 * and BSDL
 */
export function checkEntity(entity: BsdlEntity, raw: RawEntity, problems: BsdlProblem[]): void {
  const lineOf = (name: string): number =>
    raw.attributes.find((attribute) => attribute.name === name)?.line ?? raw.line;
  const error = (line: number, code: string, message: string) =>
    problems.push({ severity: 'error', line, code, message });
  const warn = (line: number, code: string, message: string) =>
    problems.push({ severity: 'warning', line, code, message });
  for (const name of MANDATORY)
    if (!raw.attributes.some((attribute) => attribute.name === name))
      error(raw.line, 'missing-attribute', `The attribute ${name} is missing.`);
  checkInstructions(entity, lineOf, error, warn);
  checkIdentity(entity, lineOf, error);
  checkPorts(entity, raw, error, warn);
  checkCells(entity, lineOf, error);
}

type Complain = (line: number, code: string, message: string) => void;

function checkInstructions(
  { irLength, instructions, opcodeLines, irCapture }: BsdlEntity,
  lineOf: (name: string) => number,
  error: Complain,
  warn: Complain,
): void {
  const line = lineOf('INSTRUCTION_OPCODE');
  if (irLength !== null && irLength < 2)
    error(lineOf('INSTRUCTION_LENGTH'), 'ir-length', `An instruction register has at least 2 bits, not ${irLength}.`);
  if (irCapture !== null) {
    if (irLength !== null && irCapture.length !== irLength)
      error(
        lineOf('INSTRUCTION_CAPTURE'),
        'capture-length',
        `INSTRUCTION_CAPTURE has ${irCapture.length} digits, the instruction register ${irLength} bits.`,
      );
    if (!irCapture.endsWith('01'))
      error(lineOf('INSTRUCTION_CAPTURE'), 'capture-bits', 'INSTRUCTION_CAPTURE must end in 01.');
  }
  const used = new Map<string, string>();
  for (const [name, codes] of Object.entries(instructions)) {
    if (codes.length === 0) error(line, 'opcode', `The instruction ${name} has no opcode.`);
    for (const [i, code] of codes.entries()) {
      const at = own(opcodeLines, name)?.[i] ?? line;
      if (irLength !== null && code.length !== irLength)
        error(
          at,
          'opcode-length',
          `The opcode ${code} of ${name} has ${code.length} digits, the instruction register ${irLength} bits.`,
        );
      const other = used.get(code);
      if (other !== undefined && !(isPreload(other) && isPreload(name)))
        error(at, 'opcode-shared', `${other} and ${name} share the opcode ${code}.`);
      used.set(code, name);
    }
  }
  if (Object.keys(instructions).length === 0) return;
  const bypass = instructions.BYPASS;
  if (irLength !== null && bypass && !bypass.some((code) => /^[1X]+$/.test(code)))
    error(line, 'bypass-opcode', 'All ones must select BYPASS.');
  if (!bypass) error(line, 'missing-instruction', 'The instruction BYPASS is missing; it is mandatory.');
  if (!instructions.EXTEST) error(line, 'missing-instruction', 'The instruction EXTEST is missing; it is mandatory.');
  if (!Object.keys(instructions).some(isPreload))
    error(line, 'missing-instruction', 'The instruction SAMPLE is missing; it is mandatory.');
  else if (instructions.SAMPLE && !instructions.PRELOAD)
    warn(
      line,
      'no-preload',
      'PRELOAD is not named; SAMPLE is taken for both, as in the first edition of the standard.',
    );
}

const isPreload = (name: string): boolean => name === 'SAMPLE' || name === 'PRELOAD';

function checkIdentity(
  { idcode, usercode, instructions }: BsdlEntity,
  lineOf: (name: string) => number,
  error: Complain,
): void {
  if (usercode !== null && usercode.length !== 32)
    error(
      lineOf('USERCODE_REGISTER'),
      'usercode-length',
      `USERCODE_REGISTER has ${usercode.length} digits; it has 32.`,
    );
  if (idcode === null) {
    if (instructions.IDCODE)
      error(
        lineOf('INSTRUCTION_OPCODE'),
        'missing-attribute',
        'There is an instruction IDCODE but no IDCODE_REGISTER.',
      );
    return;
  }
  const line = lineOf('IDCODE_REGISTER');
  if (!instructions.IDCODE)
    error(line, 'missing-instruction', 'There is an IDCODE_REGISTER but no instruction IDCODE.');
  if (idcode.length !== 32)
    return error(line, 'idcode-length', `IDCODE_REGISTER has ${idcode.length} digits; it has 32.`);
  if (idcode[31] !== '1') error(line, 'idcode-lsb', 'The last digit of an IDCODE is 1.');
  if (idcode.slice(20, 31) === FORBIDDEN_MANUFACTURER)
    error(line, 'idcode-manufacturer', 'The manufacturer code 00001111111 is not allowed.');
}

function checkPorts(entity: BsdlEntity, raw: RawEntity, error: Complain, warn: Complain): void {
  const seen = new Map<string, number>();
  for (const port of entity.ports) {
    const name = port.name.toLowerCase();
    if (seen.has(name)) error(port.line, 'port-twice', `The port "${port.name}" is declared twice.`);
    seen.set(name, port.line);
  }
  if (entity.ports.length === 0) error(raw.line, 'no-ports', 'The entity has no port.');
  const pins = new Map<string, string>();
  const mapped = entity.ports.some((port) => port.pin !== null);
  if (!mapped && entity.ports.length > 0)
    warn(raw.line, 'no-pin-map', 'No pin map: pins have no place in the package.');
  for (const port of entity.ports) {
    if (port.pin === null) {
      if (mapped) error(port.line, 'port-unmapped', `The port "${port.name}" has no pin in the map.`);
      continue;
    }
    const other = pins.get(port.pin.toLowerCase());
    if (other !== undefined)
      error(port.line, 'pin-twice', `The ports "${other}" and "${port.name}" share the pin ${port.pin}.`);
    pins.set(port.pin.toLowerCase(), port.name);
  }
  const { tap } = entity;
  for (const [name, port, direction] of [
    ['TAP_SCAN_IN', tap.tdi, 'in'],
    ['TAP_SCAN_OUT', tap.tdo, 'out'],
    ['TAP_SCAN_MODE', tap.tms, 'in'],
    ['TAP_SCAN_CLOCK', tap.tck, 'in'],
    ['TAP_SCAN_RESET', tap.trst, 'in'],
  ] as const) {
    if (port === null) continue;
    const line = raw.attributes.find((attribute) => attribute.name === name)?.line ?? raw.line;
    const found = entity.ports.find((p) => p.name.toLowerCase() === port.toLowerCase());
    if (!found) error(line, 'tap-port', `${name} names "${port}", which is no port.`);
    else if (found.direction !== direction)
      error(line, 'tap-direction', `${name}: the port "${port}" must be ${direction}, it is ${found.direction}.`);
  }
}

function checkCells(entity: BsdlEntity, lineOf: (name: string) => number, error: Complain): void {
  const { cells, boundaryLength, ports } = entity;
  const directions = new Map(ports.map((port) => [port.name.toLowerCase(), port.direction]));
  const functions = new Map<number, Set<string>>();
  for (const cell of cells) {
    const roles = functions.get(cell.cell) ?? new Set();
    if (roles.has(cell.function))
      error(cell.line, 'cell-twice', `Cell ${cell.cell} is there twice with the function ${cell.function}.`);
    functions.set(cell.cell, roles.add(cell.function));
    if (boundaryLength !== null && cell.cell >= boundaryLength)
      error(cell.line, 'cell-range', `Cell ${cell.cell} lies outside the register: its length is ${boundaryLength}.`);
    checkCellPort(cell, directions, error);
    const { disable } = cell;
    if ((cell.function === 'OUTPUT3' || cell.function === 'BIDIR') && !disable)
      error(cell.line, 'cell-control', `Cell ${cell.cell} (${cell.function}) must name the cell that disables it.`);
    if (
      disable &&
      !cells.some(
        (other) =>
          other.cell === disable.control &&
          (other.function === 'CONTROL' || other.function === 'CONTROLR' || other.cell === cell.cell),
      )
    )
      error(
        cell.line,
        'cell-control',
        `Cell ${cell.cell} is disabled by cell ${disable.control}, which is no control cell.`,
      );
  }
  if (boundaryLength === null || cells.length === 0) return;
  const missing = Array.from({ length: Math.min(boundaryLength, 100_000) }, (_, i) => i).filter(
    (i) => !functions.has(i),
  );
  if (missing.length > 0)
    error(
      lineOf('BOUNDARY_REGISTER'),
      'cell-missing',
      `${missing.length} of ${boundaryLength} cells are not described: ` +
        `${missing.slice(0, 8).join(', ')}${missing.length > 8 ? ' and more' : ''}.`,
    );
}

function checkCellPort(
  cell: BsdlEntity['cells'][number],
  directions: ReadonlyMap<string, string>,
  error: Complain,
): void {
  const alone = cell.function === 'CONTROL' || cell.function === 'CONTROLR' || cell.function === 'INTERNAL';
  if (cell.port === null) {
    if (!alone) error(cell.line, 'cell-port', `Cell ${cell.cell} (${cell.function}) must belong to a port.`);
    return;
  }
  const direction = directions.get(cell.port.toLowerCase());
  if (direction === undefined)
    return error(cell.line, 'cell-port', `Cell ${cell.cell} belongs to "${cell.port}", which is no port.`);
  if (alone)
    return error(
      cell.line,
      'cell-port',
      `Cell ${cell.cell} (${cell.function}) belongs to no port; write * instead of "${cell.port}".`,
    );
  const drives = DRIVES.has(cell.function);
  const reads = READS.has(cell.function);
  if (direction === 'linkage')
    error(cell.line, 'cell-direction', `Cell ${cell.cell} belongs to "${cell.port}", which is linkage.`);
  else if (
    (drives && direction === 'in') ||
    (reads && !drives && (direction === 'out' || direction === 'buffer')) ||
    (cell.function === 'BIDIR' && direction !== 'inout')
  )
    error(
      cell.line,
      'cell-direction',
      `Cell ${cell.cell} (${cell.function}) does not fit the port "${cell.port}", which is ${direction}.`,
    );
}
