import WebSocket from 'ws';
import type { Chance } from '../fuzz/index.ts';
import { nasty } from './values.ts';

const METHODS = [
  ...['hello', 'lease', 'release', 'run', 'state', 'frequency', 'fault', 'power', 'reconfigure', 'boot-source'],
  ...['operate', 'watch', 'ask', 'tell', 'stage', 'stage-piece', 'stage-check', 'stage-drop', 'stage-stop', 'staged'],
  ...['execute', 'constructor', '__proto__', ''],
];
const RUNS = [
  [{ kind: 'shift', count: 16_777_216, tdi: '', capture: true, exit: false }],
  [{ kind: 'shift', count: 8, tdi: '!!!!', capture: true, exit: true }],
  [{ kind: 'tms', count: 9, tms: '/w==' }],
  [{ kind: 'wait', microseconds: 60_000_000 }],
  new Array(5000).fill({ kind: 'clock', count: 1 }),
  [{ kind: 'clock', count: -1 }],
  [{ kind: 'constructor' }],
];
const ALONE_MILLISECONDS = 3000;

/** One connection to the pod that says a few things nobody means; resolves when it is over, however it ended. */
export function podConnection(port: number, token: string, chance: Chance): Promise<string> {
  return new Promise((resolve) => {
    const kind = chance.below(8);
    const headers = kind === 0 ? { origin: 'http://evil.example' } : {};
    const socket = new WebSocket(`ws://127.0.0.1:${port}`, { headers });
    const over = setTimeout(() => socket.terminate(), ALONE_MILLISECONDS);
    let said = '';
    const say = (text: string | Uint8Array) => {
      said = `${said} ${typeof text === 'string' ? text.slice(0, 120) : 'bytes'}`;
      socket.send(text);
    };
    socket
      .on('error', () => {})
      .on('close', () => {
        clearTimeout(over);
        resolve(said);
      });
    socket.on('open', () => {
      if (kind === 1) say(chance.pick(['{', '', 'null', '[]', '\0', 'x'.repeat(1 << 20)]));
      if (kind === 2) say(Uint8Array.from({ length: 1 + chance.below(5000) }, () => chance.below(256)));
      const known = kind > 3 ? token : chance.pick(['', 'wrong', 'x'.repeat(1000)]);
      say(JSON.stringify({ id: 1, method: 'hello', token: known, client: `hostile ${chance.below(9)}`, protocol: 4 }));
      for (let id = 2; id < 3 + chance.below(12); id++) say(request(id, chance));
      // One in a few leaves at once, with all of it still to be answered; another never reads.
      if (kind === 4) socket.terminate();
      else if (kind === 5) socket.pause();
      else setTimeout(() => socket.close(), chance.below(300));
    });
  });
}

function request(id: number, chance: Chance): string {
  if (chance.oneIn(5)) return JSON.stringify({ id, method: 'run', ops: chance.pick(RUNS) });
  if (chance.oneIn(5)) return JSON.stringify({ id: chance.pick([id, null, -1, 1e99]), method: chance.pick(METHODS) });
  // Its names come from calls of the workbench; some are those of the pod too.
  const more = JSON.parse(nasty(chance)) as unknown;
  return JSON.stringify({ ...(typeof more === 'object' ? more : {}), id, method: chance.pick(METHODS) });
}
