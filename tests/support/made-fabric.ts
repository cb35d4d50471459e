import { cellsOf } from '../../core/families/index.ts';
import { packNetlist } from '../../core/families/corvane/pack.ts';
import { elaborate } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { Fabric } from '../../bench/corvane/fabric.ts';
import { designIn } from '../../bench/corvane/frames.ts';

/** The fabric of a design in Verilog, top `t`, with single-bit ports on pins of the same name; oscillators in hertz. */
export function madeFabric(
  text: string,
  ports: readonly string[],
  oscillators: Readonly<Record<string, number>>,
  ears?: ConstructorParameters<typeof Fabric>[4],
): Fabric {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { top: 't', cells: cellsOf('CV25') });
  if (!netlist) throw new Error(messages.list.map(({ line, message }) => `${line}: ${message}`).join('\n'));
  const pins = ports.map((port) => {
    const about = { standard: 'LVCMOS 3.3 V', drive: 4, pull: 'none', slew: 'slow' } as const;
    return { port, bit: 0, pin: port, ...about };
  });
  const payload = packNetlist({ netlist: optimise(netlist).netlist, pins });
  const frames = new Uint8Array(4 + payload.length);
  new DataView(frames.buffer).setUint32(0, payload.length);
  frames.set(payload, 4);
  const made = designIn(frames);
  if (!made) throw new Error('the part makes no design of its frames');
  return new Fabric(made, new Map(Object.entries(oscillators)), () => 3.3, 0, ears);
}
