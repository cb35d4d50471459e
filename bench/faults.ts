import { z } from 'zod';

/** What can be made to go wrong on a bench, by the name that bench files, tests and the practice drawer use. */
export const FAULTS = [
  { name: 'cable-unplugged', label: 'Cable unplugged' },
  { name: 'board-unpowered', label: 'Board without supply' },
  { name: 'low-reference', label: 'Reference voltage low' },
  { name: 'tdo-stuck-0', label: 'TDO stuck at 0' },
  { name: 'tdo-stuck-1', label: 'TDO stuck at 1' },
  { name: 'device-missing', label: 'A device is not fitted' },
  { name: 'device-in-reset', label: 'A device is held in reset' },
  { name: 'bit-errors', label: 'Bit errors above 6 MHz' },
  { name: 'load-corrupted', label: 'A bit flips on the way to the FPGA' },
  { name: 'clock-stopped', label: 'Oscillators stopped' },
  { name: 'flash-wrong-maker', label: 'A flash of another maker' },
  { name: 'flash-busy', label: 'The flash stays busy' },
  { name: 'flash-bad-sector', label: 'A bad sector in the flash' },
  { name: 'flash-protected', label: 'The flash is write-protected' },
  { name: 'power-fails-writing', label: 'The supply fails while the flash is written' },
  { name: 'boot-switch-jtag', label: 'Boot switch at JTAG' },
  { name: 'net-short-and', label: 'Two nets shorted, 0 wins' },
  { name: 'net-short-or', label: 'Two nets shorted, 1 wins' },
  { name: 'net-open', label: 'A pin not soldered' },
  { name: 'net-stuck', label: 'A net shorted to ground' },
  { name: 'serial-off-speed', label: 'Serial line 6 % too fast' },
  { name: 'pod-lost', label: 'Connection to the pod lost' },
] as const;

export type FaultName = (typeof FAULTS)[number]['name'];

const names = FAULTS.map(({ name }) => name) as [FaultName, ...FaultName[]];

/**
 * A fault by its name, or with what it concerns: `device` is a place in the chain, `aboveHz` a TCK frequency,
 * `afterBytes` how much of the flash changes first, `percent` how much faster a serial line is than it means to be.
 */
export const faultShape = z.union([
  z.enum(names),
  z.object({
    name: z.enum(names),
    device: z.number().int().nonnegative().optional(),
    aboveHz: z.number().positive().optional(),
    afterBytes: z.number().int().nonnegative().optional(),
    nets: z.array(z.string()).min(1).optional(),
    pin: z.string().optional(),
    level: z.union([z.literal(0), z.literal(1)]).optional(),
    percent: z.number().min(-50).max(50).optional(),
  }),
]);

export type Fault = Exclude<z.infer<typeof faultShape>, string>;

export const asFault = (fault: z.infer<typeof faultShape>): Fault =>
  typeof fault === 'string' ? { name: fault } : fault;

export const isFaultName = (name: string): name is FaultName => names.includes(name as FaultName);
