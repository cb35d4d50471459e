// The Verilog of a testbench that plays a record.

/** The instance as it is made in the design: its module, with the parameters that it has there. */
export interface Alone {
  readonly module: string;
  readonly parameters: Readonly<Record<string, bigint>>;
}

interface Port {
  readonly name: string;
  readonly width: number;
}

interface MemoryOf extends Port {
  readonly depth: number;
  readonly ranges: readonly { readonly lowest: number; readonly size: number }[];
}

/** From one sample to the next, in nanoseconds: an edge at 0, inputs at 1, what is known of registers at 2. */
export const SAMPLE_NANOSECONDS = 10;

/** What the text is made of. */
interface Words {
  readonly name: string;
  readonly alone: Alone;
  readonly title: string;
  readonly samples: number;
  /** Between two samples lies one pulse of the clock; otherwise clocks change as the data says. */
  readonly isSampled: boolean;
  readonly clocks: readonly string[];
  readonly idle: readonly string[];
  readonly inputs: readonly Port[];
  readonly outputs: readonly Port[];
  readonly state: readonly Port[];
  readonly starts: number;
  readonly breaks: number;
  readonly memories: readonly MemoryOf[];
}

const bitsOf = (ports: readonly Port[]): number => ports.reduce((sum, { width }) => sum + width, 0);
const range = (width: number): string => (width === 1 ? '' : `[${width - 1}:0] `);
/** On one line of a comment. */
const oneLine = (text: string): string => text.replaceAll(/[^\x20-\x7e]+/g, ' ');
const SIMPLE = /^[A-Za-z_][\w$]*$/;
/** @source IEEE 1364-2005, clause 3.7.1: an escaped identifier ends with a blank */
const called = (name: string): string => (SIMPLE.test(name) ? name : `\\${name} `);

/** Verilog 2005 (IEEE 1364-2005), nothing else: it runs in any simulator. */
export const testbenchText = (words: Words): string => new Text(words).text();

class Text {
  readonly #words: Words;
  /** Begins all names that are not those of ports. */
  readonly #own: string;

  constructor(words: Words) {
    this.#words = words;
    const taken = [...words.clocks, ...words.idle, ...[...words.inputs, ...words.outputs].map(({ name }) => name)];
    let own = 'r_';
    while (taken.some((name) => name.startsWith(own))) own = `${own}_`;
    this.#own = own;
  }

  text(): string {
    const { name, alone, title, clocks } = this.#words;
    const own = this.#own;
    return [
      `// Plays ${oneLine(title)} into ${alone.module}, and compares what comes out with what the hardware put out.`,
      '`timescale 1ns / 1ps',
      `module ${name};`,
      ...this.#data(),
      '',
      ...this.#ports(),
      `  reg ${own}begins, ${own}anew;`,
      `  integer ${own}sample, ${own}stretch, ${own}differences${this.#loops()};`,
      '',
      ...this.#instance(),
      '',
      '  // What is captured changes just after an edge and is looked at just before the next one.',
      `  task ${own}feed;`,
      '    begin',
      `      {${[`${own}begins`, `${own}anew`, ...clocks.flatMap((_, i) => [`${own}moves_${i}`, `${own}level_${i}`]), ...this.#words.inputs.map((port) => called(port.name))].join(', ')}} = ${own}in[${own}sample];`,
      '    end',
      '  endtask',
      '',
      ...this.#compare(),
      ...this.#run(),
      'endmodule',
      '',
    ].join('\n');
  }

  #data(): string[] {
    const { samples, clocks, inputs, outputs, state, starts, breaks, memories } = this.#words;
    const own = this.#own;
    const bits = 2 + 2 * clocks.length + bitsOf(inputs);
    const forClocks = clocks.length > 0 ? 'for each clock whether it changes and to what, ' : '';
    return [
      `  localparam ${own}SAMPLES = ${samples};`,
      '',
      `  // A word a sample: whether a stretch begins, whether nothing of before counts in it, ${forClocks}then the inputs.`,
      `  reg [${bits - 1}:0] ${own}in [0:${samples - 1}];`,
      "  // x where the hardware's value does not follow from what is known.",
      `  reg [${Math.max(1, bitsOf(outputs)) - 1}:0] ${own}out [0:${samples - 1}];`,
      ...(state.length > 0
        ? [`  // Registers where each stretch begins.`, `  reg [${bitsOf(state) - 1}:0] ${own}start [0:${starts - 1}];`]
        : []),
      ...memories.map(
        ({ width, depth }, i) => `  reg [${width - 1}:0] ${own}memory_${i} [0:${Math.max(1, depth * breaks) - 1}];`,
      ),
    ];
  }

  #ports(): string[] {
    const { clocks, idle, inputs, outputs } = this.#words;
    const own = this.#own;
    return [
      ...clocks.flatMap((clock, i) => [`  reg ${called(clock)} = 1'b0;`, `  reg ${own}moves_${i}, ${own}level_${i};`]),
      ...idle.map((clock) => `  reg ${called(clock)} = 1'b0; // its edges are not in the record`),
      ...inputs.map(({ name, width }) => `  reg ${range(width)}${called(name)};`),
      ...outputs.flatMap(({ name, width }, i) => [
        `  wire ${range(width)}${called(name)};`,
        `  reg ${range(width)}${own}seen_${i};`,
      ]),
    ];
  }

  #loops(): string {
    const { memories } = this.#words;
    if (memories.length === 0) return '';
    const most = Math.max(...memories.map(({ ranges }) => ranges.length));
    return `, ${this.#own}place, ${this.#own}gap${Array.from({ length: most }, (_, i) => `, ${this.#own}i${i}`).join('')}`;
  }

  #instance(): string[] {
    const { alone, clocks, idle, inputs, outputs } = this.#words;
    const parameters = Object.entries(alone.parameters).map(([parameter, value]) => `.${parameter}(${value})`);
    const ports = [...clocks, ...idle, ...inputs.map(({ name }) => name), ...outputs.map(({ name }) => name)];
    return [
      `  ${called(alone.module)}${parameters.length > 0 ? ` #(${parameters.join(', ')})` : ''} dut (`,
      ports.map((port) => `    .${called(port)}(${called(port)})`).join(',\n'),
      '  );',
    ];
  }

  #compare(): string[] {
    const { outputs } = this.#words;
    const own = this.#own;
    if (outputs.length === 0) return [];
    return [
      `  task ${own}compare;`,
      '    begin',
      `      {${outputs.map((_, i) => `${own}seen_${i}`).join(', ')}} = ${own}out[${own}sample];`,
      ...outputs.flatMap(({ name }, i) => [
        // An unknown bit on either side makes x, and x is no difference.
        `      if ((|(${called(name)} ^ ${own}seen_${i})) === 1'b1) begin`,
        `        if (${own}differences < 20)`,
        `          $display("sample %0d: ${name} is %b, the hardware had %b", ${own}sample, ${called(name)}, ${own}seen_${i});`,
        `        ${own}differences = ${own}differences + 1;`,
        '      end',
      ]),
      '    end',
      '  endtask',
      '',
    ];
  }

  #run(): string[] {
    const { name, isSampled, clocks, outputs, state, memories } = this.#words;
    const own = this.#own;
    return [
      '  initial begin',
      `    $readmemb("${name}.in.mem", ${own}in);`,
      `    $readmemb("${name}.out.mem", ${own}out);`,
      ...(state.length > 0 ? [`    $readmemb("${name}.start.mem", ${own}start);`] : []),
      ...memories.map((_, i) => `    $readmemb("${name}.m${i}.mem", ${own}memory_${i});`),
      `    $dumpfile("${name}.vcd");`,
      '    $dumpvars;',
      `    ${own}stretch = 0;`,
      `    ${own}differences = 0;`,
      ...(memories.length > 0 ? [`    ${own}gap = 0;`] : []),
      `    for (${own}sample = 0; ${own}sample < ${own}SAMPLES; ${own}sample = ${own}sample + 1) begin`,
      ...this.#edges(),
      `      #1 ${own}feed;`,
      `      #1 if (${own}begins) begin`,
      ...(state.length > 0
        ? [`        {${state.map((one) => `dut.${one.name}`).join(', ')}} = ${own}start[${own}stretch];`]
        : []),
      ...(memories.length > 0
        ? [
            `        if (${own}anew) begin`,
            ...memories.flatMap((memory, i) => this.#fill(memory, i)),
            `          ${own}gap = ${own}gap + 1;`,
            '        end',
          ]
        : []),
      `        ${own}stretch = ${own}stretch + 1;`,
      '      end',
      '      #4;',
      ...(isSampled ? clocks.map((clock) => `      ${called(clock)} = 1'b0;`) : []),
      '      #4;',
      ...(outputs.length > 0 ? [`      ${own}compare;`] : []),
      '    end',
      `    if (${own}differences == 0) begin`,
      `      $display("${name}: %0d samples, no difference from the hardware", ${own}SAMPLES);`,
      '      $finish;',
      '    end else begin',
      `      $display("${name}: %0d samples, %0d differences from the hardware", ${own}SAMPLES, ${own}differences);`,
      '      $stop;',
      '    end',
      '  end',
    ];
  }

  /** What comes before the inputs of a sample; edges that came at once come at once. */
  #edges(): string[] {
    const { isSampled, clocks, inputs } = this.#words;
    const own = this.#own;
    const top = 2 * clocks.length + bitsOf(inputs);
    return clocks.map((clock, i) => {
      const at = (bit: number) => `${own}in[${own}sample][${bit}]`;
      const level = isSampled ? "1'b1" : at(top - 2 - 2 * i);
      return `      if (${at(top - 1 - 2 * i)}) ${called(clock)} <= ${level};`;
    });
  }

  #fill({ name, depth, ranges }: MemoryOf, memory: number): string[] {
    const own = this.#own;
    const heads = ranges.map(
      ({ lowest, size }, i) =>
        `for (${own}i${i} = ${lowest}; ${own}i${i} < ${lowest + size}; ${own}i${i} = ${own}i${i} + 1)`,
    );
    return [
      `          ${own}place = ${own}gap * ${depth};`,
      `          ${heads.join(' ')} begin`,
      `            dut.${name}${ranges.map((_, i) => `[${own}i${i}]`).join('')} = ${own}memory_${memory}[${own}place];`,
      `            ${own}place = ${own}place + 1;`,
      '          end',
    ];
  }
}
