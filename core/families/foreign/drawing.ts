import type { BsdlEntity } from '../../bsdl/index.ts';
import type { PackageDrawing, PackagePin } from '../package.ts';

const PITCH = 0.5;

/**
 * Pins of a description around a square, in the order of their names: where they really are a description does not
 * say. Pins are what an input or output port is on; all else is supply, or the test port's.
 */
export function drawingOf(entity: BsdlEntity): PackageDrawing {
  const { tdi, tdo, tms, tck, trst } = entity.tap;
  const test = new Set([tdi, tdo, tms, tck, trst]);
  const placed = entity.ports
    .flatMap(({ name, direction, pin }) => (pin === null ? [] : [{ name, direction, pin }]))
    .sort((a, b) => a.pin.localeCompare(b.pin, 'en', { numeric: true }));
  const side = Math.max(1, Math.ceil(placed.length / 4));
  const body = (side + 1) * PITCH;
  const pins = placed.map(({ name, direction, pin }, i): PackagePin => {
    const along = ((i % side) + 1) * PITCH;
    const [x, y] = [
      [0, along],
      [along, body],
      [body, body - along],
      [body - along, 0],
    ][Math.floor(i / side)] ?? [0, 0];
    const kind = test.has(name) ? 'config' : direction === 'linkage' ? 'supply' : 'io';
    return { name: pin, x: x ?? 0, y: y ?? 0, kind, bank: kind === 'io' ? 0 : null, clock: false };
  });
  return { name: entity.packageName ?? '', style: 'quad', body, pitch: PITCH, pins };
}
