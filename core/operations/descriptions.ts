import { boundaryMap, type ScannedDevice } from '../boundary/index.ts';
import { type BsdlEntity, readBsdl } from '../bsdl/index.ts';
import { familyOf } from '../families/index.ts';
import type { FoundDevice, KnownDevice } from '../jtag/index.ts';

const read = new Map<string, BsdlEntity | null>();

/** The description of a part known here. */
function entityOf(part: string): BsdlEntity | null {
  if (!read.has(part)) {
    const family = familyOf(part);
    const [packageName = ''] = family?.packagesOf(part) ?? [];
    const text = family?.describe(part, packageName) ?? null;
    read.set(part, text === null ? null : readBsdl(text).entity);
  }
  return read.get(part) ?? null;
}

/**
 * Devices of a chain as boundary scan takes them; `given` are descriptions read for this board, by name. Null while a
 * length is not known.
 */
export function describedChain(
  devices: readonly FoundDevice[],
  given: readonly BsdlEntity[],
): readonly ScannedDevice[] | null {
  const found = devices.map(({ part, irLength }): ScannedDevice | null => {
    const entity = part === null ? null : (given.find((one) => one.entity === part) ?? entityOf(part));
    const map = entity ? boundaryMap(entity) : null;
    return map?.ok ? map.value : irLength === null ? null : { irLength };
  });
  return found.includes(null) ? null : (found as ScannedDevice[]);
}

/** A description as discovery takes it; null when it says too little. X digits of the IDCODE count as 0. */
export function knownFrom(entity: BsdlEntity): KnownDevice | null {
  if (entity.irLength === null || entity.idcode === null || entity.idcode.length !== 32) return null;
  const [opcode] = entity.instructions.IDCODE ?? [];
  return {
    name: entity.entity,
    irLength: entity.irLength,
    idcode: Number.parseInt(entity.idcode.replace(/X/g, '0'), 2) >>> 0,
    irCapture:
      entity.irCapture && !entity.irCapture.includes('X') && entity.irLength <= 30
        ? Number.parseInt(entity.irCapture, 2)
        : null,
    idcodeOpcode: opcode === undefined ? null : Number.parseInt(opcode.replace(/X/g, '0'), 2),
    tells: entity.packageName ? `package ${entity.packageName}` : '',
  };
}
