import { bsdlText, caseDrawing } from '../cases/index.ts';
import type { DebugAccess, Design, Family, Fpga, Part } from '../family.ts';
import { fail, ok, type Result } from '../../result.ts';
import { problem } from './problems.ts';
import {
  BOOT_HEADER_BYTES,
  BOOT_HEADER_ROOM,
  bootHeaderAddress,
  GOLDEN_ADDRESS,
  readBootHeader,
  writeBootHeader,
} from './boot.ts';
import { CLOCK_GENERATOR } from './clock-generator.ts';
import { configure } from './configure.ts';
import { delaysOf, GRADES, MEMORIES } from './delays.ts';
import { misordered } from './order-hint.ts';
import { packNetlist } from './pack.ts';
import { framesOfPart, INSTRUCTION, IR_CAPTURE, IR_LENGTH, PART_TABLE } from './parts.ts';
import { portsIn } from './ports.ts';
import { verifyConfiguration } from './read-back.ts';
import { PRINT_REGISTER, STATUS_REGISTER } from './registers.ts';
import { scriptFlash, scriptLoad } from './script.ts';
import { SpiOverJtag } from './spi-link.ts';
import { STANDARDS } from './standards.ts';
import { buildStream, frameCapacity, streamBytes } from './stream.ts';
import { streamFacts } from './stream-facts.ts';

const fpga: Fpga = {
  name: 'Corvane',
  get parts() {
    return PARTS;
  },
  usualPart: 'CV25',
  grades: GRADES,
  standards: STANDARDS,
  drawing: caseDrawing,
  delays: delaysOf,
  memories: MEMORIES,
  clockGenerator: CLOCK_GENERATOR,
  stream: {
    bytes: ({ name }) => streamBytes(framesOfPart(name)),
    make: makeStream,
    facts: streamFacts,
    misordered,
    ports: ({ name }, stream) => portsIn(framesOfPart(name), stream),
  },
  status: STATUS_REGISTER,
  print: PRINT_REGISTER,
  configure,
  verify: verifyConfiguration,
  scriptLoad,
  flash: {
    port: (link) => new SpiOverJtag(link),
    script: scriptFlash,
    boot: {
      golden: GOLDEN_ADDRESS,
      headerBytes: BOOT_HEADER_BYTES,
      headerRoom: BOOT_HEADER_ROOM,
      headerAddress: bootHeaderAddress,
      writeHeader: writeBootHeader,
      readHeader: readBootHeader,
    },
  },
};

const PARTS: readonly Part[] = PART_TABLE.map(({ frames: _frames, ...row }) => ({
  ...row,
  family: fpga,
  irLength: IR_LENGTH,
  idcodeOpcode: INSTRUCTION.IDCODE,
}));

/** docs/silicon.md, sections 1 to 9 */
export const corvane: Family = {
  name: fpga.name,
  devices: PART_TABLE.map(({ name, idcode, luts }) => ({
    name,
    idcode,
    irLength: IR_LENGTH,
    irCapture: IR_CAPTURE,
    idcodeOpcode: INSTRUCTION.IDCODE,
    tells: `${luts} LUTs, ${marking(name)}`,
  })),
  packagesOf: (part) => PART_TABLE.find(({ name }) => name === part)?.packages ?? [],
  drawing: caseDrawing,
  describe,
  debug: (part) => (PART_TABLE.some(({ name }) => name === part) ? DEBUG : null),
  fpga,
};

const DEBUG: DebugAccess = {
  opcode: INSTRUCTION.FABRIC_LINK,
  late: 0,
  isNamed: false,
  runs: { ...STATUS_REGISTER, decode: (bits) => STATUS_REGISTER.decode(bits).done },
};

/** Twins share silicon and IDCODE; only what is printed on the case tells them apart. docs/silicon.md, section 1 */
function marking(name: string): string {
  return name.endsWith('S') ? 'a letter S behind the name on the case: sleep mode' : 'no S behind the name on the case';
}

function makeStream({ name, idcode }: Part, design: Design, fingerprint: Uint8Array): Result<Uint8Array> {
  const frames = framesOfPart(name);
  const payload = packNetlist(design);
  const room = frameCapacity(frames);
  if (payload.length > room) return fail(problem('does-not-fit', { bytes: payload.length, name, room }));
  return ok(buildStream(idcode, frames, fingerprint, payload));
}

function describe(part: string, packageName: string): string | null {
  const known = PART_TABLE.find(({ name, packages }) => name === part && packages.includes(packageName));
  if (!known) return null;
  return bsdlText({
    name: known.name,
    package: packageName,
    idcode: known.idcode,
    irLength: IR_LENGTH,
    irCapture: IR_CAPTURE.toString(2).padStart(IR_LENGTH, '0'),
    instructions: { ...INSTRUCTION, PRELOAD: INSTRUCTION.SAMPLE },
    registers:
      'BOUNDARY (EXTEST, SAMPLE, PRELOAD), BYPASS (BYPASS, CLAMP, HIGHZ, ISC_ENABLE, ISC_NOOP, ISC_DISABLE), ' +
      'STATUS[32] (CFG_STATUS), PRINT[128] (CFG_PRINT)',
  });
}
