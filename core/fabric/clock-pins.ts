import type { Bitstream } from './bitstream.ts';
import { type FabricImage, unpackNetlist } from './pack.ts';
import { partNamed } from './parts.ts';
import { framesOf } from './frames.ts';

/** Input pins whose edges clock registers of a design. */
export function clockPins(bitstream: Bitstream): { readonly port: string; readonly pin: string }[] {
  const image = imageOf(bitstream);
  if (!image) return [];
  const { netlist, pins } = image;
  const clocks = new Set(netlist.registers.map((register) => register.clock));
  const ports = new Set(netlist.inputs.filter(({ node }) => clocks.has(node)).map(({ name }) => name));
  return pins.filter(({ port }) => ports.has(port)).map(({ port, pin }) => ({ port, pin }));
}

/** Which port a design has on which pin. `width` is the number of pins of the port. */
export function portPins(
  bitstream: Bitstream,
): { readonly port: string; readonly bit: number; readonly width: number; readonly pin: string }[] {
  const pins = imageOf(bitstream)?.pins ?? [];
  return pins.map(({ port, bit, pin }) => ({
    port,
    bit,
    pin,
    width: pins.filter((other) => other.port === port).length,
  }));
}

function imageOf({ part, stream }: Bitstream): FabricImage | null {
  const known = partNamed(part);
  if (!known) return null;
  const frames = framesOf(known, stream);
  return unpackNetlist(frames.subarray(4, 4 + new DataView(frames.buffer).getUint32(0)));
}
