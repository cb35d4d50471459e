// The serial line from end to end, without a page: what the board says, what it is told, files, waiting, another pod.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest';
import { bytesFromBase64 } from '../core/bits/index.ts';
import { readable, USUAL_LINE } from '../core/serial/index.ts';
import { benchTarget } from '../bench/index.ts';
import { servePod } from '../pod/index.ts';
import { madeBoard } from '../tests/support/made-board.ts';
import { RECEIVER, SENDER } from '../tests/support/serial-designs.ts';
import { endedJob } from '../tests/support/work.ts';
import { assemble, type Server } from './assemble.ts';
import { routes } from './router.ts';
import { openDatabase } from './store/database.ts';

/** Says back what it hears, a byte later, and once at the beginning that it is there. */
const ECHO = `module t(input clk, input rx, output tx);
  wire [7:0] data; wire got;
  receiver u_in(.clk(clk), .line(rx), .data(data), .got(got));
  reg [7:0] kept = "!"; reg full = 1; wire busy;
  sender u_out(.clk(clk), .data(kept), .go(full && !busy), .busy(busy), .line(tx));
  always @(posedge clk) if (got) begin kept <= data; full <= 1; end else if (!busy) full <= 0;
endmodule
`;
const echo = () =>
  madeBoard({
    ...{ top: 't', files: [{ name: 't.v', text: ECHO + SENDER + RECEIVER }], clocks: { clk: 12e6 } },
    ...{ pins: 'rx,B2\ntx,A2\n', parts: { serial: { tx: 'A2', rx: 'B2' } } },
  });

let folder: string;
let server: Server;
const pods: Awaited<ReturnType<typeof servePod>>[] = [];

async function served(): Promise<string> {
  const board = echo();
  await board.load();
  const target = benchTarget(board.bench);
  const pod = await servePod(target, { host: '127.0.0.1', port: 0, token: 't' });
  const close = async () => {
    target.stop();
    await pod.close();
  };
  pods.push({ ...pod, close });
  return `ws://127.0.0.1:${pod.port}`;
}

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'nimble-line-'));
  server = assemble(await openDatabase(join(folder, 'test.sqlite')));
  await server.board.use(await served(), 't');
});
afterAll(async () => {
  server.board.hands().close();
  for (const pod of pods) await pod.close();
  await server.close();
  rmSync(folder, { recursive: true });
});

const calls = () => routes.createCaller({ on: server, shown: null });
const say = (text: string) => calls().line.say({ bytes: Buffer.from(text).toString('base64') });
const lines = async () =>
  (await calls().line.lines({ from: 1, most: 5000 })).lines.map(
    ({ way, bytes }) => `${way} ${readable(bytesFromBase64(bytes), true)}`,
  );
const heard = (text: string) => vi.waitFor(async () => expect((await lines()).join('|')).toContain(text), 5000);

describe('the serial line at the server', () => {
  test('what the board said before anybody asked is there, and what is said to it comes back', async () => {
    await heard('in !');
    await say('hello\n');
    await heard('out hello␊');
    await heard('in hello␊');
    expect(server.lines.state).toMatchObject({ sent: 6, wrong: 0 });
  });

  test('a file is sent as a job that tells how it ended', async () => {
    const job = await endedJob(
      server,
      server.desks.line.sendFile({ name: 'a.txt', bytes: new Uint8Array(200).fill(65) }),
    );
    expect([job.state, job.message]).toEqual(['done', 'a.txt: 200 bytes have left for the board.']);
    await heard('A'.repeat(200));
    expect((await lines()).some((line) => line === 'note a.txt, 200 bytes, is sent')).toBe(true);
  });

  test('a text is waited for: it comes, it does not come, it is given up', async () => {
    const { id } = await calls().line.waitFor({ text: 'ready', seconds: 20 });
    await say('ready\n');
    expect(await endedJob(server, id)).toMatchObject({
      state: 'done',
      message: expect.stringMatching(/^“ready” came/),
    });
    const never = await calls().line.waitFor({ text: 'never', seconds: 0.3 });
    expect((await endedJob(server, never.id)).problem).toMatchObject({ code: 'line-silent' });
    const long = await calls().line.waitFor({ text: 'never', seconds: 60 });
    await calls().jobs.cancel({ id: long.id });
    expect((await endedJob(server, long.id)).problem).toMatchObject({ code: 'cancelled' });
  });

  test('at another speed what comes is wrong, and the settings that fit are known', async () => {
    expect(await calls().line.set({ ...USUAL_LINE, rate: 38_400 })).toMatchObject({ rate: 38_400 });
    await heard('note from here at 38 400 8N1');
    for (let i = 0; i < 8; i++) await server.board.hands().sendOnLine(Uint8Array.from([0x55, 0x80, 0x0f]));
    await calls().line.set(USUAL_LINE);
    await say('The quick brown fox, 0123456789.\n');
    await vi.waitFor(
      () => expect(server.lines.state.fit?.settings).toMatchObject({ rate: 115_200, dataBits: 8 }),
      5000,
    );
  });

  test('what is kept can be had as text, as the bytes that came, and as a table without formulas', async () => {
    await say('=1+1\n');
    await heard('in =1+1');
    const text = (form: 'text' | 'bytes' | 'csv') => {
      const { body } = server.desks.line.lineFile(form);
      return typeof body === 'string' ? body : Buffer.from(body).toString();
    };
    expect(text('text')).toMatch(/T[\d:.]+Z > hello\n/);
    expect(text('bytes')).toContain('hello\nA');
    expect(text('bytes')).not.toContain('is sent');
    expect(text('csv').split('\n')[0]).toBe('number,time,way,bytes,text,wrong');
    expect(text('csv')).toContain("'=1+1");
  });

  test('what is no base64, no line and no settings is refused in words', async () => {
    await expect(calls().line.say({ bytes: '§' })).rejects.toThrow('base64');
    await expect(calls().line.set({ ...USUAL_LINE, rate: 1 })).rejects.toThrow();
    await expect(calls().line.waitFor({ text: '', seconds: 1 })).rejects.toThrow();
  });

  test('another board has a conversation of its own, and the first one is still there afterwards', async () => {
    const first = server.board.pod.address ?? '';
    const before = await lines();
    await server.board.use(await served(), 't');
    await heard('in !');
    expect((await lines()).join('|')).not.toContain('hello');
    await server.board.use(first, 't');
    await heard('hello');
    // What was known is not heard twice.
    expect((await lines()).filter((line) => line === 'in hello␊').length).toBe(
      before.filter((line) => line === 'in hello␊').length,
    );
  });

  test('cleared, it begins anew, and numbers go on', async () => {
    const last = server.lines.state.last;
    await calls().line.clear();
    expect(await lines()).toEqual([]);
    await say('x\n');
    await heard('out x␊');
    expect(server.lines.state.first).toBe(last + 1);
  });
});
