// A testbench as text, run to its end, for tests of what the event simulator does.
import { simulate, type Simulated } from '../../core/sim/events/index.ts';

type SimulateOptions = Parameters<typeof simulate>[1];

export interface Ran extends Simulated {
  readonly output: string;
}

/** Runs Verilog (or with a name that ends so, SystemVerilog); fails where it is not understood. */
export function ran(
  text: string,
  {
    name = 'test.v',
    files = {},
    ...options
  }: Partial<SimulateOptions> & { name?: string; files?: Record<string, string> } = {},
): Ran {
  let output = '';
  const sources = [{ name, text }, ...Object.entries(files).map(([file, content]) => ({ name: file, text: content }))];
  const host = { read: (file: string) => files[file] ?? null, print: (piece: string) => (output += piece) };
  const { run, messages } = simulate(sources, { host, until: { seconds: 1 }, ...options });
  if (!run) throw new Error(messages.map((m) => `${m.line}:${m.column} ${m.code} ${m.message}`).join('\n'));
  return { ...run, output };
}

/** What statements print that run once in a module with these declarations. */
export const printed = (declarations: string, statements: string, name = 'test.v'): string =>
  ran(`module t;\n${declarations}\ninitial begin\n${statements}\nend\nendmodule\n`, { name }).output;

/** One value shown by `$display` with a format. */
export const shown = (format: string, value: string, declarations = '', name = 'test.v'): string =>
  printed(declarations, `$display("${format}", ${value});`, name).replace(/\n$/, '');
