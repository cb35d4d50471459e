import { item, own } from '../lists.ts';
import {
  cellPort,
  type Memory,
  type MemReadNode,
  type Netlist,
  type NetNode,
  type NodeId,
  type PartCell,
  type Port,
  type Register,
} from './types.ts';

/**
 * A netlist as one flat module of plain Verilog (IEEE 1364-2005, synthesizable). Declared names are kept, their dots as
 * underscores; `rename` gives ports whose names Verilog does not allow; cells of the part are instances. Power-up values
 * stand in the declarations, as FPGAs take them.
 */
export function writeVerilog(netlist: Netlist, top: string, rename: Readonly<Record<string, string>> = {}): string {
  return new Writer(netlist, top, rename).text();
}

class Writer {
  readonly #netlist: Netlist;
  readonly #top: string;
  readonly #rename: Readonly<Record<string, string>>;
  readonly #names = new Map<NodeId, string>();
  readonly #taken: Set<string>;

  constructor(netlist: Netlist, top: string, rename: Readonly<Record<string, string>>) {
    this.#netlist = netlist;
    this.#top = top;
    this.#rename = rename;
    this.#taken = new Set([...netlist.inputs, ...netlist.outputs].map(({ name }) => this.#port(name)));
    for (const { name, node } of netlist.inputs) this.#names.set(node, this.#port(name));
    for (const { name, node } of netlist.signals)
      if (!this.#names.has(node)) this.#names.set(node, this.#free(plain(name)));
  }

  text(): string {
    const { inputs, outputs, registers, memories, nodes } = this.#netlist;
    const used = this.#used();
    const both = new Set(
      outputs.filter(({ name }) => inputs.some((input) => input.name === name)).map(({ name }) => name),
    );
    const isOfCell = ({ name }: Port) => this.#netlist.cells.some(({ path }) => name.startsWith(cellPort(path, '')));
    const ports = [
      ...inputs
        .filter((port) => !both.has(port.name) && !isOfCell(port))
        .map((port) => `input  ${range(port.width)}${this.#port(port.name)}`),
      ...outputs
        .filter((port) => !isOfCell(port))
        .map((port) => `${both.has(port.name) ? 'inout ' : 'output'} ${range(port.width)}${this.#port(port.name)}`),
    ];
    return [
      `module ${plain(this.#top)} (`,
      ports.map((port) => `  ${port}`).join(',\n'),
      ');',
      ...[...inputs, ...outputs].filter(isOfCell).map((port) => `  wire ${range(port.width)}${this.#port(port.name)};`),
      ...registers.map(
        ({ node, init }) =>
          `  reg ${range(this.#width(node))}${this.#name(node)} = ${literal(init, this.#width(node))};`,
      ),
      ...memories.flatMap((memory, i) => declareMemory(memory, i)),
      ...[...used].sort((a, b) => a - b).flatMap((id) => this.#declare(id, item(nodes, id))),
      ...this.#registerBlocks(),
      ...memories.flatMap((memory, i) => this.#writeBlocks(memory, i)),
      ...outputs.flatMap((port) => this.#drive(port)),
      ...this.#netlist.cells.map((cell) => this.#instance(cell)),
      'endmodule',
      '',
    ].join('\n');
  }

  #instance({ module, path, parameters }: PartCell): string {
    const { inputs, outputs } = this.#netlist;
    const start = cellPort(path, '');
    const given = Object.entries(parameters).map(([name, value]) => `.${name}(${value})`);
    const ports = [...inputs, ...outputs]
      .filter(({ name }) => name.startsWith(start))
      .map(({ name }) => `.${name.slice(start.length)}(${this.#port(name)})`);
    return `  ${module} #(${given.join(', ')}) ${this.#free(plain(path))} (${ports.join(', ')});`;
  }

  #port(name: string): string {
    return own(this.#rename, name) ?? plain(name);
  }

  #free(wanted: string): string {
    let name = wanted;
    for (let i = 2; this.#taken.has(name); i++) name = `${wanted}_${i}`;
    this.#taken.add(name);
    return name;
  }

  #name(id: NodeId): string {
    const known = this.#names.get(id);
    if (known !== undefined) return known;
    const made = this.#free(`net_${id}`);
    this.#names.set(id, made);
    return made;
  }

  #width(id: NodeId): number {
    return item(this.#netlist.nodes, id).width;
  }

  /** Everything that registers, memories and outputs depend on. */
  #used(): Set<NodeId> {
    const { registers, memories, outputs, nodes } = this.#netlist;
    const open = [
      ...registers.flatMap(({ clock, d, reset, load }) => [clock, d, reset, load]),
      ...memories.flatMap(({ writes }) =>
        writes.flatMap(({ clock, enable, address, data }) => [clock, enable, address, data]),
      ),
      ...outputs.flatMap(({ node, enable }) => [node, enable ?? null]),
    ].filter((id) => id !== null);
    const seen = new Set<NodeId>();
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      if (seen.has(id)) continue;
      seen.add(id);
      open.push(...item(nodes, id).args);
    }
    return seen;
  }

  #declare(id: NodeId, node: NetNode): string[] {
    if (node.op === 'input' || node.op === 'reg') return [];
    const name = this.#name(id);
    const wire = (text: string) => `  wire ${range(node.width)}${name} = ${text};`;
    const [a = '', b = '', c = ''] = node.args.map((arg) => this.#name(arg));
    const first = node.args[0] === undefined ? 0 : this.#width(node.args[0]);
    switch (node.op) {
      case 'const':
        return [wire(literal(node.value ?? 0n, node.width))];
      case 'wire':
        return [node.args.length > 0 ? wire(a) : wire(literal(0n, node.width))];
      case 'memread':
        return [wire(this.#memoryRead(node, a))];
      case 'not':
        return [wire(`~${a}`)];
      case 'and':
        return [wire(`${a} & ${b}`)];
      case 'or':
        return [wire(`${a} | ${b}`)];
      case 'xor':
        return [wire(`${a} ^ ${b}`)];
      case 'redand':
        return [wire(`&${a}`)];
      case 'redor':
        return [wire(`|${a}`)];
      case 'redxor':
        return [wire(`^${a}`)];
      case 'add':
        return [wire(`${a} + ${b}`)];
      case 'sub':
        return [wire(`${a} - ${b}`)];
      case 'mul':
        return [wire(`${a} * ${b}`)];
      case 'divu':
        return [wire(`${b} == 0 ? {${node.width}{1'b1}} : ${a} / ${b}`)];
      case 'modu':
        return [wire(`${b} == 0 ? ${a} : ${a} % ${b}`)];
      // A choice between signed and unsigned is unsigned, so the signed part has a wire of its own.
      case 'divs':
      case 'mods': {
        const signed = this.#free(`${name}_signed`);
        return [
          `  wire signed ${range(node.width)}${signed} = $signed(${a}) ${node.op === 'divs' ? '/' : '%'} ` +
            `$signed(${b});`,
          wire(`${b} == 0 ? ${node.op === 'divs' ? `{${node.width}{1'b1}}` : a} : ${signed}`),
        ];
      }
      case 'eq':
        return [wire(`${a} == ${b}`)];
      case 'ltu':
        return [wire(`${a} < ${b}`)];
      case 'lts':
        return [wire(`$signed(${a}) < $signed(${b})`)];
      case 'shl':
        return [wire(`${a} << ${b}`)];
      case 'shr':
        return [wire(`${a} >> ${b}`)];
      case 'sra':
        return [wire(`$signed(${a}) >>> ${b}`)];
      case 'mux':
        return [wire(`${a} ? ${b} : ${c}`)];
      case 'concat':
        return [
          wire(
            `{${[...node.args]
              .reverse()
              .map((arg) => this.#name(arg))
              .join(', ')}}`,
          ),
        ];
      case 'slice':
        return [wire(part(a, first, node.lo ?? 0, node.width))];
      case 'sext':
        return [
          wire(
            node.width > first
              ? `{{${node.width - first}{${part(a, first, first - 1, 1)}}}, ${a}}`
              : part(a, first, 0, node.width),
          ),
        ];
    }
  }

  #memoryRead({ memory, args, width }: MemReadNode, address: string): string {
    const { depth } = item(this.#netlist.memories, memory);
    const reach = 2 ** Math.min(40, this.#width(args[0]));
    return reach > depth
      ? `${address} < ${depth} ? mem_${memory}[${address}] : ${literal(0n, width)}`
      : `mem_${memory}[${address}]`;
  }

  #registerBlocks(): string[] {
    const groups = new Map<string, Register[]>();
    for (const register of this.#netlist.registers) {
      const event =
        `${register.edge} ` +
        `${this.#name(register.clock)}${register.reset === null ? '' : ` or posedge ${this.#name(register.reset)}`}`;
      groups.set(event, [...(groups.get(event) ?? []), register]);
    }
    return [...groups].flatMap(([event, registers]) => {
      const [{ reset }] = registers as [Register];
      const next = registers.map(({ node, d }) => `${this.#name(node)} <= ${this.#name(d)};`);
      if (reset === null) return [`  always @(${event}) begin`, ...next.map((line) => `    ${line}`), '  end'];
      const resets = registers.map(
        ({ node, resetValue, load }) =>
          `${this.#name(node)} <= ${load === null ? literal(resetValue, this.#width(node)) : this.#name(load)};`,
      );
      return [
        `  always @(${event})`,
        `    if (${this.#name(reset)}) begin`,
        ...resets.map((line) => `      ${line}`),
        '    end else begin',
        ...next.map((line) => `      ${line}`),
        '    end',
      ];
    });
  }

  #writeBlocks({ writes }: Memory, index: number): string[] {
    return writes.flatMap(({ clock, edge, enable, address, data }) => [
      `  always @(${edge} ${this.#name(clock)})`,
      `    if (${this.#name(enable)}) mem_${index}[${this.#name(address)}] <= ${this.#name(data)};`,
    ]);
  }

  /** An output that can float is driven bit by bit. */
  #drive({ name, node, width, enable }: Port): string[] {
    const port = this.#port(name);
    if (enable === undefined) return [`  assign ${port} = ${this.#name(node)};`];
    return Array.from(
      { length: width },
      (_, i) =>
        `  assign ${part(port, width, i, 1)} = ${part(this.#name(enable), width, i, 1)} ? ` +
        `${part(this.#name(node), width, i, 1)} : 1'bz;`,
    );
  }
}

const plain = (name: string): string => name.replace(/[^\w]/g, '_').replace(/^(?=\d)/, '_');

const range = (width: number): string => (width === 1 ? '' : `[${width - 1}:0] `);

const literal = (value: bigint, width: number): string => `${width}'h${BigInt.asUintN(width, value).toString(16)}`;

const part = (name: string, of: number, lo: number, width: number): string =>
  of === 1 ? name : width === 1 ? `${name}[${lo}]` : `${name}[${lo + width - 1}:${lo}]`;

function declareMemory({ width, depth, init }: Memory, index: number): string[] {
  const words = init.flatMap((word, at) =>
    word === undefined ? [] : [`    mem_${index}[${at}] = ${literal(word, width)};`],
  );
  return [
    `  reg ${range(width)}mem_${index} [0:${depth - 1}];`,
    ...(words.length > 0 ? ['  initial begin', ...words, '  end'] : []),
  ];
}
