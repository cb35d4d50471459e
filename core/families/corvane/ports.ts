import { madeClocks } from '../../netlist/index.ts';
import type { PlacedPort } from '../family.ts';
import { framesOf } from './frames.ts';
import { unpackNetlist } from './pack.ts';

/** Which port a design has on which pin. */
export function portsIn(frames: number, stream: Uint8Array): readonly PlacedPort[] {
  const memory = framesOf(frames, stream);
  const image = unpackNetlist(memory.subarray(4, 4 + new DataView(memory.buffer).getUint32(0)));
  if (!image) return [];
  const { netlist, pins } = image;
  const clocks = new Set([...netlist.registers.map(({ clock }) => clock), ...madeClocks(netlist).values()]);
  const clockPorts = new Set(netlist.inputs.filter(({ node }) => clocks.has(node)).map(({ name }) => name));
  const widths = new Map<string, number>();
  for (const { port } of pins) widths.set(port, (widths.get(port) ?? 0) + 1);
  return pins.map(({ port, bit, pin }) => ({
    port,
    bit,
    pin,
    width: widths.get(port) ?? 0,
    isClock: clockPorts.has(port),
  }));
}
