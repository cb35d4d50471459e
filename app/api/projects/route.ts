import { z } from 'zod';
import { writeProjectFile } from '../../../core/build/index.ts';
import { partNamed } from '../../../core/fabric/index.ts';
import { ProblemError, problem } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

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

export const GET = guarded(async () => {
  const on = await server();
  return answer({ projects: await on.store.projects.list(), current: (await on.store.projects.current())?.id ?? null });
});

/** Makes a project with a first source in it, and opens it. */
export const POST = guarded(async (request) => {
  const { name, part } = await readJson(
    request,
    z.object({ name: z.string().trim().min(1).max(100), part: z.string() }),
  );
  if (!partNamed(part))
    throw new ProblemError(problem('unknown-part', `There is no part "${part}".`, 'Choose one from the list.'));
  const on = await server();
  const settings = writeProjectFile({
    format: 'nimble-project',
    version: 2,
    name,
    part,
    grade: 2,
    top: 'top',
    pins: 'pins.csv',
    clocks: {},
    accepted: [],
  });
  const id = await on.store.projects.create(name, [
    { name: 'nimble.json', text: settings },
    { name: 'pins.csv', text: 'port,pin\n' },
    { name: 'top.v', text: FIRST_SOURCE },
  ]);
  on.state.changed();
  return answer({ id });
});
