import type { Bitstream } from './bitstream.ts';
import { unpackNetlist } from './pack.ts';
import { partNamed } from './parts.ts';
import { framesOf } from './read-back.ts';

/** Input pins whose edges clock registers of a design. */
export function clockPins({ part, stream }: Bitstream): { readonly port: string; readonly pin: string }[] {
  const known = partNamed(part);
  if (!known) return [];
  const frames = framesOf(known, stream);
  const image = unpackNetlist(frames.subarray(4, 4 + new DataView(frames.buffer).getUint32(0)));
  if (!image) return [];
  const { netlist, pins } = image;
  const clocks = new Set(netlist.registers.map((register) => register.clock));
  const ports = new Set(netlist.inputs.filter(({ node }) => clocks.has(node)).map(({ name }) => name));
  return pins.filter(({ port }) => ports.has(port)).map(({ port, pin }) => ({ port, pin }));
}
