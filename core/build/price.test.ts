// What a plan is priced at, beside what the build with it takes.
import { describe, expect, test } from 'vitest';
import { demoPlan, demoProject } from '../../tests/support/demo.ts';
import { PieceMemory } from '../mapping/index.ts';
import { emptyPlan, type ProbePlan } from '../probes/index.ts';
import { unwatched } from '../progress.ts';
import { build, DesignPrices, type Project, readPorts } from './index.ts';

const memory = () => ({ sources: new Map(), pieces: new PieceMemory() });

function within(project: Project, plan: ProbePlan): void {
  const cost = new DesignPrices(project, memory()).cost(plan);
  const [plain, probed] = [emptyPlan, plan].map((one) => build({ project, plan: one }).resources);
  if (!cost || !plain || !probed) throw new Error('not priced');
  // Five parts in a hundred were asked for; it is the same count.
  expect([cost.luts, cost.registers, cost.blockRams]).toEqual([
    probed.luts - plain.luts,
    probed.registers - plain.registers,
    probed.blockRams - plain.blockRams,
  ]);
}

describe('the price of a plan', () => {
  test('is what the build takes more, for the demo’s plan', () => within(demoProject(), demoPlan()));

  test('counts logic that only the probes keep alive', () => {
    const text = `module t(input clk, input [7:0] d, output reg y);
reg [15:0] sum = 0; reg [15:0] product = 0; reg [7:0] last = 0;
always @(posedge clk) begin last <= d; sum <= sum + d * last; product <= product ^ (sum * 3); y <= d[0]; end
endmodule`;
    const project: Project = {
      file: {
        format: 'nimble-project',
        version: 3,
        grade: 2,
        accepted: [],
        name: 't',
        part: 'CV25',
        pins: 'pins.csv',
        clocks: {},
      },
      files: [{ name: 't.v', text }],
    };
    const plan: ProbePlan = {
      recorders: [{ name: 'r', clock: 't.clk', depth: 64, signals: ['t.sum', 't.product'], comparators: 1 }],
      panels: [],
    };
    within(project, plan);
    const prices = new DesignPrices(project, memory());
    const small = prices.cost({
      recorders: [{ name: 'r', clock: 't.clk', depth: 64, signals: ['t.y'], comparators: 1 }],
      panels: [],
    });
    expect((prices.cost(plan)?.registers ?? 0) - (small?.registers ?? 0)).toBeGreaterThan(40);
  });

  test('leaves what was read as it was: the next build takes it from memory, and comes out as if alone', () => {
    const [project, shared] = [demoProject(), memory()];
    new DesignPrices(project, shared).cost(demoPlan());
    readPorts(project, shared);
    const after = build({ project, plan: emptyPlan }, unwatched, shared);
    const alone = build({ project, plan: emptyPlan });
    expect(after.reuse.filesKnown).toBe(after.reuse.files);
    expect(after.messages).toEqual(alone.messages);
    expect(after.bitstream).toEqual(alone.bitstream);
    expect(alone.bitstream).not.toBeNull();
  });

  test('is not guessed where the plan names what is gone, or the sources make no design', () => {
    const prices = new DesignPrices(demoProject(), memory());
    expect(
      prices.cost({
        recorders: [{ name: 'r', clock: 'lockhouse.clk', depth: 64, signals: ['lockhouse.gone'] }],
        panels: [],
      }),
    ).toBeNull();
    const project = demoProject();
    expect(
      new DesignPrices(
        {
          ...project,
          files: project.files.map((file) =>
            file.name.endsWith('levels.v') ? { ...file, text: 'module levels(' } : file,
          ),
        },
        memory(),
      ).plain(),
    ).toBeNull();
  });
});
