// @vitest-environment happy-dom
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { base64FromBytes } from '../../../core/bits/index.ts';
import { type LogLine, USUAL_LINE } from '../../../core/serial/index.ts';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { copied, textOf } from './use-lines.ts';
import { LineView } from './index.ts';

const LINE = { first: 1, last: 0, version: 0, received: 0, sent: 0, wrong: 0, fit: null };
const bytesOf = (text: string) => new TextEncoder().encode(text);

/** A server that has said so much; more can be said. */
function said(...texts: string[]) {
  const lines = texts.map((text, i) => ({
    ...{ number: i + 1, at: 1000 * i, troubles: [], way: text.startsWith('>') ? 'out' : 'in' },
    bytes: base64FromBytes(bytesOf(text.replace(/^>/, ''))),
  }));
  return {
    state: () => ({ ...LINE, last: lines.length, version: lines.length, received: 10 }),
    answer: ({ from }: { readonly from: number }) => ({
      ...{ first: 1, last: lines.length },
      lines: lines.filter(({ number }) => number >= from),
    }),
    add: (text: string) => {
      const number = lines.length + 1;
      lines.push({ number, at: 0, troubles: [], way: 'in', bytes: base64FromBytes(bytesOf(text)) });
    },
  };
}

const at = (rate: number) => ({ line: { settings: { ...USUAL_LINE, rate }, queued: 0, waits: false } });

beforeEach(() => localStorage.clear());

describe('the serial line on the page', () => {
  test('without a line it says what is missing', async () => {
    const { screen } = await renderPage(<LineView hint="" />, { board: {} });
    expect(screen.getByText(/This pod has no serial line/)).toBeTruthy();
  });

  test('lines are fetched once, and only what is new after that', async () => {
    const board = said('one\n', '>go\n');
    const page = await renderPage(<LineView hint="" />, {
      board: at(115_200),
      state: { line: board.state() },
      answers: { 'line.lines': board.answer },
    });
    const asked = () => page.calls.filter(({ name }) => name === 'line.lines').map(({ input }) => input);
    await vi.waitFor(() => expect(asked()).toEqual([{ from: 1, most: 5000 }]));
    board.add('two\n');
    page.tell({ line: board.state() });
    // The last one is asked for again: it may have gone on.
    await vi.waitFor(() => expect(asked()[1]).toEqual({ from: 2, most: 5000 }));
  });

  test('settings that fit better are offered, and taken with one click', async () => {
    const fit = {
      settings: { rate: 115_200, dataBits: 7, parity: 'even', stopBits: 1 },
      rate: 115_000,
      frames: 30,
      wrong: 0,
    };
    const page = await renderPage(<LineView hint="" />, {
      board: at(9600),
      state: { line: { ...LINE, fit: fit as never } },
      answers: { 'line.lines': said().answer, 'line.set': () => USUAL_LINE },
    });
    expect(page.screen.getByRole('status').textContent).toContain(
      '115 200 7E1 fits what arrives; you are at 9 600 8N1.',
    );
    await page.user.click(page.screen.getByRole('button', { name: 'Take it' }));
    expect(page.calls.find(({ name }) => name === 'line.set')?.input).toEqual({
      ...{ rate: 115_200, dataBits: 7, parity: 'even', stopBits: 1, flow: 'none' },
    });
  });

  test('where they fit, what was measured is told, with a word where it is nearly too far off', async () => {
    const fit = { settings: { ...USUAL_LINE }, rate: 118_000, frames: 30, wrong: 0 };
    const { screen } = await renderPage(<LineView hint="" />, {
      board: at(115_200),
      state: { line: { ...LINE, fit } },
      answers: { 'line.lines': said().answer },
    });
    expect(screen.getByRole('status').textContent).toMatch(/Measured 118 000 bit\/s, 2\.4 % faster than set/);
  });

  test('a line is sent with its end, bytes as they are, and a phrase with one click', async () => {
    const page = await renderPage(<LineView hint="" />, {
      board: at(115_200),
      answers: { 'line.lines': said().answer, 'line.say': done },
    });
    const sent = () =>
      page.calls.filter(({ name }) => name === 'line.say').map(({ input }) => atob((input as { bytes: string }).bytes));
    const { screen, user } = page;
    await user.type(screen.getByLabelText('What is sent'), 'status{Enter}');
    await user.click(screen.getByRole('button', { name: 'Keep what is written' }));
    await user.selectOptions(screen.getByLabelText('end'), 'CR LF');
    await user.click(screen.getByRole('button', { name: 'status' }));
    await user.clear(screen.getByLabelText('What is sent'));
    await user.click(screen.getByLabelText('bytes'));
    await user.type(screen.getByLabelText('What is sent'), '41 0x42{Enter}');
    await vi.waitFor(() => expect(sent()).toEqual(['status\n', 'status\r\n', 'AB']));
    await user.type(screen.getByLabelText('What is sent'), ' 4G');
    expect(screen.getByRole('button', { name: 'Send' })).toHaveProperty('disabled', true);
  });

  test('it is sent again and again until it is stopped', async () => {
    const page = await renderPage(<LineView hint="" />, {
      board: at(115_200),
      answers: { 'line.lines': said().answer, 'line.say': done },
    });
    const { screen, user } = page;
    const count = () => page.calls.filter(({ name }) => name === 'line.say').length;
    await user.type(screen.getByLabelText('What is sent'), 'x');
    await user.clear(screen.getByLabelText('Milliseconds between two'));
    await user.type(screen.getByLabelText('Milliseconds between two'), '20');
    await user.click(screen.getByRole('button', { name: 'Send every' }));
    await vi.waitFor(() => expect(count()).toBeGreaterThan(2));
    await user.click(screen.getByRole('button', { name: 'Stop' }));
    const then = count();
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(count()).toBe(then);
  });

  test('what cannot be sent is not tried again and again', async () => {
    const page = await renderPage(<LineView hint="" />, {
      board: at(115_200),
      // Nothing answers line.say.
      answers: { 'line.lines': said().answer },
    });
    const { screen, user } = page;
    await user.type(screen.getByLabelText('What is sent'), 'x');
    await user.clear(screen.getByLabelText('Milliseconds between two'));
    await user.type(screen.getByLabelText('Milliseconds between two'), '40');
    await user.click(screen.getByRole('button', { name: 'Send every' }));
    expect(await screen.findByRole('button', { name: 'Send every' })).toBeTruthy();
    const then = page.calls.filter(({ name }) => name === 'line.say').length;
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect(page.calls.filter(({ name }) => name === 'line.say').length).toBe(then);
  });

  test('nothing said yet: it says what to do', async () => {
    const { screen } = await renderPage(<LineView hint="" />, {
      board: at(115_200),
      answers: { 'line.lines': said().answer },
    });
    expect(screen.getByRole('log').textContent).toContain('Load a design that talks');
  });

  test('a speed counts when it is confirmed, one that is none does not', async () => {
    const page = await renderPage(<LineView hint="" />, {
      board: at(115_200),
      answers: { 'line.lines': said().answer, 'line.set': () => USUAL_LINE },
    });
    const { screen, user } = page;
    const speed = screen.getByLabelText('Speed in bits a second');
    await user.clear(speed);
    await user.type(speed, '3{Enter}');
    expect(speed.getAttribute('aria-invalid')).toBe('true');
    await user.clear(speed);
    await user.type(speed, '250 000{Enter}');
    await user.selectOptions(screen.getByLabelText('Parity'), 'odd');
    expect(page.calls.flatMap(({ name, input }) => (name === 'line.set' ? [input] : []))).toMatchObject([
      { rate: 250_000, parity: 'none' },
      { parity: 'odd' },
    ]);
  });

  test('what waits because the board asks for a pause can be dropped', async () => {
    const page = await renderPage(<LineView hint="" />, {
      board: { line: { settings: USUAL_LINE, queued: 12, waits: true } },
      answers: { 'line.lines': said().answer, 'line.drop': done },
    });
    expect(page.screen.getByText(/the board asks for a pause; 12 bytes wait/)).toBeTruthy();
    await page.user.click(page.screen.getByRole('button', { name: 'Drop them' }));
    expect(page.calls.some(({ name }) => name === 'line.drop')).toBe(true);
  });

  test('a line is copied as it is shown', () => {
    const line: LogLine = { number: 1, at: 0, way: 'in', bytes: bytesOf('ab\r\n'), troubles: [] };
    expect([copied(line, 'text'), copied(line, 'hex'), copied(line, 'both')]).toEqual([
      ...['ab', '61 62 0D 0A', '61 62 0D 0A  ab'],
    ]);
    expect(textOf(line)).toBe('ab');
  });
});
