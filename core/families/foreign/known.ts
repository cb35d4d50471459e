import type { BsdlEntity } from '../../bsdl/index.ts';
import type { KnownDevice } from '../../jtag/index.ts';

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
