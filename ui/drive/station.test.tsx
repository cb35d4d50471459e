// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { ProblemError, problem } from '../../core/result.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import { SUMMARY } from '../../tests/support/page/state.ts';
import { DriveStation } from './index.ts';

const FINGERPRINT = SUMMARY.fingerprint;
const PROBES = {
  fingerprint: FINGERPRINT,
  cores: [
    {
      ...{ kind: 'panel', core: 2, name: 'p', clock: 't.clk', leverBits: 13, enableBits: 1, gaugeBits: 76 },
      levers: [
        { name: 't.trim', width: 12, lo: 0, signed: false, enable: null },
        { name: 't.hold', width: 1, lo: 12, signed: false, enable: 0 },
      ],
      gauges: [
        { name: 't.level', width: 12, lo: 0, signed: false },
        { name: 't.long', width: 64, lo: 12, signed: false },
      ],
    },
  ],
};
const RUNNING = { device: 1, fingerprint: FINGERPRINT, status: { done: true } } as never;

/** A panel that keeps what is set. */
function panel() {
  const levers: Record<string, { value: bigint; released: boolean }> = {
    't.trim': { value: 3n, released: false },
    't.hold': { value: 0n, released: true },
  };
  const move = ({ set }: { readonly set: Readonly<Record<string, bigint | null>> }) => {
    for (const [name, value] of Object.entries(set))
      levers[name] = value === null ? { value: 0n, released: true } : { value, released: false };
    const trim = levers['t.trim']?.value ?? 0n;
    return { reading: { levers: { ...levers }, gauges: { 't.level': trim + 1n, 't.long': (1n << 63n) | 5n } } };
  };
  return { levers, move };
}

async function shown(running: unknown = RUNNING, move = panel().move) {
  const newest = {
    usable: { ...SUMMARY, details: { probes: PROBES } },
    latest: { ...SUMMARY, details: { probes: PROBES } },
  };
  return renderPage(<DriveStation />, {
    at: '/drive',
    state: { usable: SUMMARY, latest: SUMMARY, running: running as never },
    answers: { 'drive.move': move, 'design.newest': () => newest, 'design.builds': () => [newest.usable] },
  });
}

describe('levers and gauges', () => {
  test('are read again and again, and show their values in the radix that is chosen', async () => {
    const { screen, user } = await shown();
    expect((await screen.findByTestId('gauge-t.level')).textContent).toMatch(/4|–/);
    await expect.poll(() => screen.getByTestId('gauge-t.level').textContent).toBe('4');
    await user.selectOptions(screen.getByLabelText('Radix'), 'hex');
    expect(screen.getByTestId('gauge-t.level').textContent).toMatch(/^(0x)?0*4$/);
    expect(screen.getByTestId('gauge-t.long').textContent?.replace(/0x/, '')).toMatch(/^80000000\s?00000005$/);
    await user.selectOptions(screen.getByLabelText('Radix'), 'bin');
    expect(screen.getByTestId('gauge-t.level').textContent).toMatch(/100$/);
  });

  test('a value is set in any radix; one that does not fit, or is no number, is refused and stays to be mended', async () => {
    const { screen, user, calls } = await shown();
    const field = (await screen.findByLabelText('Value for t.trim')) as HTMLInputElement;
    const set = () => user.click(screen.getAllByRole('button', { name: 'Set' })[0] as HTMLElement);
    await user.type(field, '0x2a');
    await set();
    await expect.poll(() => screen.getByTestId('gauge-t.level').textContent).toBe('43');
    expect(field.value).toBe('');
    const before = calls.length;
    await user.type(field, '4096');
    await set();
    expect(await screen.findByText(/4096.*12/)).toBeTruthy();
    expect(field.value).toBe('4096');
    const sent = calls.slice(before).filter(({ input }) => Object.keys((input as { set: object }).set).length > 0);
    expect(sent).toEqual([]);
  });

  test('a lever on a driven signal overrides its driver until it is released', async () => {
    const { screen, user } = await shown();
    const lever = await screen.findByTestId('lever-t.hold');
    await expect.poll(() => lever.textContent).toMatch(/released/);
    const press = (name: string) =>
      user.click(
        [...lever.querySelectorAll('button')].find(({ textContent }) => textContent === name) ?? document.body,
      );
    await press('Set 1');
    await expect.poll(() => lever.textContent).toMatch(/overrides its driver/);
    expect(lever.querySelector('[data-testid="value"]')?.textContent).toBe('1');
    await press('Release');
    await expect.poll(() => lever.textContent).toMatch(/released/);
  });

  test('nothing is asked of a board that runs another build', async () => {
    const { screen, calls } = await shown({ device: 1, fingerprint: 'e'.repeat(32), status: { done: true } });
    expect(await screen.findByText(/these probes belong/)).toBeTruthy();
    expect(calls.filter(({ name }) => name === 'drive.move')).toEqual([]);
    expect((screen.getByRole('button', { name: 'Set 1' }) as HTMLButtonElement).disabled).toBe(true);
  });

  test('what goes wrong is said with what to try', async () => {
    const { screen } = await shown(RUNNING, () => {
      throw new ProblemError(problem('cable-lost', 'The cable was lost.', 'Plug it in.'));
    });
    expect((await screen.findByRole('alert')).textContent).toMatch(/The cable was lost\..*Plug it in\./);
  });
});
