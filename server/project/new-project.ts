import { PROJECT_FILE, readProjectFile, type TextFile, writeProjectFile } from '../../core/build/index.ts';
import { partNamed, usualPart } from '../../core/families/index.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';

const FIRST_SOURCE = `// The top module: its ports go to pins, under Pins.
module top (
  input            clk,
  output reg [7:0] lamp = 0
);
  reg [23:0] count = 0;

  always @(posedge clk) begin
    count <= count + 1'b1;
    if (&count[19:0]) lamp <= {lamp[6:0], ~lamp[7]};
  end
endmodule
`;

/** Files of a project that was not there before: its settings, an empty pin table, a first source. */
export function newProject(name: string, part: string): Result<readonly TextFile[]> {
  if (!partNamed(part)) return fail(problem('unknown-part', { part }));
  return ok([
    { name: PROJECT_FILE, text: settings({ name, part, top: 'top' }) },
    { name: 'pins.csv', text: 'port,pin\n' },
    { name: 'top.v', text: FIRST_SOURCE },
  ]);
}

/** Name and files of a project that comes from elsewhere. One without settings gets some. */
export function importedProject(files: readonly TextFile[]): Result<{
  readonly name: string;
  readonly files: readonly TextFile[];
}> {
  const given = files.find((file) => file.name === PROJECT_FILE);
  if (given) {
    const file = readProjectFile(given.text);
    return file.ok ? ok({ name: file.value.name, files }) : file;
  }
  const name = 'Imported';
  return ok({ name, files: [...files, { name: PROJECT_FILE, text: settings({ name, part: usualPart() }) }] });
}

const settings = (given: { readonly name: string; readonly part: string; readonly top?: string }): string =>
  writeProjectFile({
    format: 'nimble-project',
    version: 3,
    grade: 2,
    pins: 'pins.csv',
    clocks: {},
    accepted: [],
    ...given,
  });
