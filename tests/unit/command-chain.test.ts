// `nimble chain shift`: one instruction and one register by hand.
import { readFileSync, writeFileSync } from 'node:fs';
import { spawn } from 'node:child_process';
import { expect, test } from 'vitest';
import { nimbleCommand } from '../support/command.ts';

const { at, nimble, run } = nimbleCommand();
const BENCH = ['--bench', 'demo/benches/lockhouse.bench.json', '--json'];
const shift = (...args: string[]) => nimble('chain', 'shift', ...args, ...BENCH);

test('a name of a known part brings its opcode and length; what came is told with what Capture-IR had loaded', () => {
  expect(shift('--device', '2', '--instruction', 'idcode')).toMatchObject({
    status: 0,
    json: { instruction: 'IDCODE', length: 32, captured: '0x05064FFB', irCaptured: '0x05' },
  });
});

test('a description that is given counts', () => {
  writeFileSync(at('other.bsd'), readFileSync('demo/devices/sp64.bsd', 'utf8'));
  expect(shift('--device', '2', '--instruction', 'SAMPLE', '--bsdl', at('other.bsd'))).toMatchObject({
    status: 0,
    json: { instruction: 'SAMPLE', device: 2 },
  });
});

test('an opcode needs a length; what is unknown, too long or no place is told', () => {
  expect(shift('--device', '1', '--instruction', '0b111111', '--length', '8', '--value', '0xa5')).toMatchObject({
    status: 0,
    json: { instruction: '0b111111', value: '0xA5' },
  });
  expect(run('chain', 'shift', '--device', '1', '--instruction', '0b111111', ...BENCH).status).toBe(2);
  expect(shift('--device', '1', '--instruction', 'NONE')).toMatchObject({
    status: 1,
    json: { problem: { code: 'no-instruction' } },
  });
  expect(shift('--device', '1', '--instruction', 'BYPASS', '--value', '7')).toMatchObject({
    status: 1,
    json: { problem: { code: 'hand-value' } },
  });
  expect(shift('--device', '9', '--instruction', '0b1', '--length', '1')).toMatchObject({
    status: 1,
    json: { problem: { code: 'hand-place' } },
  });
  expect(run('chain', 'shift', '--device', 'x', '--instruction', '0b1', ...BENCH).status).toBe(2);
});

test('a pod with a folder begins with the TCK that a sweep found its cable to bear', async () => {
  const started = async () => {
    const pod = spawn(
      process.execPath,
      ['cli/pod.mjs', '--port', '0', '--token', 'right', '--state', at('pod-state')],
      { stdio: ['ignore', 'pipe', 'inherit'] },
    );
    const line = await new Promise<string>((resolve) => pod.stdout.once('data', (data) => resolve(String(data))));
    return { pod, address: /ws:\S+/.exec(line)?.[0] ?? '' };
  };
  const first = await started();
  const swept = nimble('chain', 'sweep', '--pod', first.address, '--token', 'right', '--json');
  expect(swept.status).toBe(0);
  const { chosenHz } = swept.json;
  expect(chosenHz).toBeGreaterThan(0);
  first.pod.kill('SIGKILL');
  const second = await started();
  const rungs = nimble('chain', 'diagnose', '--pod', second.address, '--token', 'right', '--json');
  expect(JSON.stringify(rungs.json)).toContain(`TCK stands at ${Number(chosenHz) / 1e6} MHz`);
  second.pod.kill('SIGKILL');
}, 60_000);
