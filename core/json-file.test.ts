import { expect, test } from 'vitest';
import { readBoard } from './constraints/index.ts';
import { readLayout } from './images/index.ts';
import { readPlanFile, readProbeMap } from './probes/index.ts';

test.each([
  ['a board', readBoard('b.board.json', '{"format":"nimble-board","version":7}')],
  [
    'a layout',
    readLayout(
      'b.layout.json',
      '{"format":"nimble-layout","version":7,"name":"x","size":4096,"sectorBytes":4096,"blocks":[]}',
    ),
  ],
])('%s of another version says which one is known', (_, read) => {
  expect(read.ok ? '' : `${read.error.message} ${read.error.tryNext.join(' ')}`).toMatch(
    /of version 7; this release knows version 1\. Open it with a newer release, or write it anew: docs\/formats\.md, section \d+\./,
  );
});

test.each([
  [
    'a probe plan',
    readPlanFile('{"format":"nimble-probe-plan","version":7,"recorders":[],"panels":[]}', 'p.plan.json'),
  ],
  ['a probe map', readProbeMap({ format: 'nimble-probes', version: 7, fingerprint: 'a'.repeat(32), cores: [] })],
])('%s of another version says so too', (_, read) => {
  expect(read.ok ? '' : read.error.message).toMatch(/of version 7; this release knows version 1\./);
});

test('what is wrong besides is told as before', () => {
  const read = readBoard('b.board.json', '{"format":"nimble-board","version":1}');
  expect(read.ok ? '' : read.error.message).not.toMatch(/version/);
});
