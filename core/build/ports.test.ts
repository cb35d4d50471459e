import { describe, expect, test } from 'vitest';
import { PieceMemory } from '../mapping/index.ts';
import { emptyPlan } from '../probes/index.ts';
import { build, type BuildMemory, type Project, readPorts } from './index.ts';

const project = (text: string, top?: string): Project => ({
  file: {
    format: 'nimble-project',
    version: 3,
    grade: 2,
    accepted: [],
    name: 't',
    part: 'CV10',
    pins: 'pins.csv',
    clocks: {},
    ...(top === undefined ? {} : { top }),
  },
  files: [{ name: 'rtl/t.v', text }],
});
const fresh = (): BuildMemory => ({ sources: new Map(), pieces: new PieceMemory() });
const BLINK =
  'module blink(input clk, input [1:0] keys, output reg lamp, inout wire line);\n  always @(posedge clk) lamp <= ' +
  "^keys ^ line;\n  assign line = keys[0] ? lamp : 1'bz;\nendmodule\n";

describe('ports from the sources as they stand', () => {
  test('are the ports a build has, without a build', () => {
    const seen = readPorts(project(BLINK), fresh());
    expect(seen).toMatchObject({ top: 'blink', modules: ['blink'], trouble: null });
    expect(seen.ports).toEqual(build({ project: project(BLINK), plan: emptyPlan }).ports);
    expect(seen.ports?.map(({ name, width, clock }) => [name, width, clock])).toEqual(
      expect.arrayContaining([
        ['clk', 1, true],
        ['keys', 2, false],
        ['lamp', 1, false],
        ['line', 1, false],
      ]),
    );
  });

  test('follow an edit', () => {
    const memory = fresh();
    readPorts(project(BLINK), memory);
    const edited = readPorts(
      project(BLINK.replace('[1:0] keys', '[3:0] keys').replace('output reg lamp', 'output reg lamp, output spare')),
      memory,
    );
    expect(edited.ports?.find(({ name }) => name === 'keys')?.width).toBe(4);
    expect(edited.ports?.some(({ name }) => name === 'spare')).toBe(true);
  });

  test('are not there where the sources are no design: the first trouble is told with its place', () => {
    const seen = readPorts(project(BLINK.replace('endmodule', 'endmodul')), fresh());
    expect(seen.ports).toBeNull();
    expect(seen.trouble).toMatchObject({ file: 'rtl/t.v', line: expect.any(Number), message: expect.any(String) });
  });
});
