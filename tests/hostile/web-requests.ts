import { connect } from 'node:net';
import { gzipSync } from 'node:zlib';
import { type Chance, READERS } from '../fuzz/index.ts';
import { nasty } from './values.ts';

/** What a request was, to be told where it is answered badly, and the answer. */
export interface Answer {
  readonly what: string;
  /** Null where the connection was closed without one. */
  readonly status: number | null;
  readonly bytes: number;
  readonly milliseconds: number;
  /** What the answer may be besides a refusal of what cannot be meant. */
  readonly mayBe: 'anything' | 'refused' | 'nothing';
}

const UPLOADS = [
  ...['images?for=load', 'images?for=flash', 'images?for=hell', 'bsdl', 'svf', 'probe-map', 'load-file'],
  ...['projects/import', 'images?for=flash&name=', `bsdl?name=${'n'.repeat(5000)}`],
];
const PAGES = [
  ...['/', '/bench', '/design/messages', '/keep/steps', '/probe', '/capture', '/nowhere', '/api', '/api/call/'],
  ...['/api/captures/1/vcd', '/api/captures/-1/vcd', '/api/captures/1e9/csv', '/api/captures/1/exe'],
  ...['/api/projects/1/zip', '/api/projects/999999999999999999/zip', '/api/bitstream', '/api/plan/verilog'],
  ...['/api/flash-read', '/api/flash-read?format=exe', '/api/svf/export?what=load', '/api/svf/export?what=x'],
  ...['/api/call/project.files', '/api/call/constructor', '/api/call/__proto__', '/sign-in?to=//evil.example/'],
  ...['/api/captures/..%2f..%2fetc%2fpasswd/vcd', '/_next/static/../../package.json', '/%00', '/%ff%fe', '/%'],
  ...['/..%5c..%5cpackage.json', '//evil.example/', `/${'a'.repeat(7000)}`, `/bench?${'q=1&'.repeat(1500)}`],
  ...['/_next/static/chunks/%2e%2e/%2e%2e/%2e%2e/package.json', '/api/events/../call/project.list'],
];
const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'DELETE', 'PATCH', 'OPTIONS'] as const;
const STRANGE_ORIGINS = [
  'null',
  'http://evil.example',
  'https://127.0.0.1',
  'garbage',
  'http://',
  'file://',
  ' ',
  '\t',
];
const RAW = [
  ...['GARBAGE\r\n\r\n', '\0\0\0\0', 'GET / HTTP/9.9\r\n\r\n', 'GET /\r\n\r\n', 'TRACE / HTTP/1.1\r\nHost: x\r\n\r\n'],
  ...['GET / HTTP/1.1\r\nHost: a\r\nHost: b\r\n\r\n', 'CONNECT a:1 HTTP/1.1\r\nHost: a\r\n\r\n'],
  'POST /api/call/project.list HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 99999999999999999999\r\n\r\n',
  'POST /api/svf HTTP/1.1\r\nHost: 127.0.0.1\r\nTransfer-Encoding: chunked\r\n\r\nffffffffffffffff\r\nx',
  'POST /api/svf HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 5\r\nTransfer-Encoding: chunked\r\n\r\n0\r\n\r\n',
  `GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n${'X-A: b\r\n'.repeat(3000)}\r\n`,
  'GET /api/events HTTP/1.1\r\nHost: 127.0.0.1\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n\r\n',
];

/** One request to the workbench, chosen by chance. */
export async function webRequest(port: number, procedures: readonly string[], chance: Chance): Promise<Answer> {
  const kind = chance.below(20);
  if (kind < 11) return aCall(port, chance.pick(procedures), chance);
  if (kind < 14) return anUpload(port, chance);
  if (kind < 16) return aPage(port, chance);
  if (kind < 18) return aStranger(port, chance.pick(procedures), chance);
  return aRaw(port, chance.pick(RAW));
}

const own = (port: number) => ({
  origin: `http://127.0.0.1:${port}`,
  ...{ 'sec-fetch-site': 'same-origin', 'x-nimble-page': '1' },
});

const aCall = (port: number, procedure: string, chance: Chance) => {
  const body = chance.oneIn(10) ? chance.pick(['', '{', 'null', '[]', '"', '\0', '{"a":'.repeat(5000)]) : nasty(chance);
  const batch = chance.oneIn(8) ? `?batch=${chance.pick(['1', '2', '', 'x'])}` : '';
  const path = `/api/call/${batch && chance.oneIn(2) ? `${procedure},${procedure}` : procedure}${batch}`;
  const type = chance.oneIn(10) ? chance.pick(['text/plain', '', 'multipart/form-data', 'x']) : 'application/json';
  const shown = chance.oneIn(6) ? { 'x-nimble-project': chance.pick(['1', '-1', '9e99', 'x', '999999']) } : {};
  return asked(port, 'POST', path, { ...own(port), ...(type ? { 'content-type': type } : {}), ...shown }, body);
};

const anUpload = (port: number, chance: Chance) => {
  const reader = chance.pick(READERS);
  const made = reader.make(reader.seeds(), chance);
  const body = chance.oneIn(12) ? gzipSync(made) : chance.oneIn(20) ? new Uint8Array(17 << 20) : made;
  const zipped = chance.oneIn(12) ? { 'content-encoding': 'gzip' } : {};
  return asked(port, 'POST', `/api/${chance.pick(UPLOADS)}`, { ...own(port), ...zipped }, body);
};

const aPage = (port: number, chance: Chance) => {
  const range = chance.oneIn(5) ? { range: 'bytes=0-1,2-3,99999999999-' } : {};
  const headers = { ...own(port), ...range, cookie: chance.pick(['', 'nimble=x', `a=${'b'.repeat(4000)}`]) };
  return asked(port, chance.pick(METHODS), chance.pick(PAGES), headers, null);
};

/** From another site, or by another name: a good call in itself, and refused. */
const aStranger = async (port: number, procedure: string, chance: Chance): Promise<Answer> => {
  const [origin, host, site] = [chance.pick(STRANGE_ORIGINS), 'evil.example', 'cross-site'];
  const strange = chance.pick([{ origin }, { ...own(port), host }, { ...own(port), 'sec-fetch-site': site }]);
  const answer = await asked(
    port,
    'POST',
    `/api/call/${procedure}`,
    { 'content-type': 'application/json', ...strange },
    'null',
  );
  return { ...answer, mayBe: 'refused' };
};

const ANSWER_MILLISECONDS = 20_000;

/** Over a socket of its own: the ready-made clients do not let a bad one say all this. */
function asked(
  port: number,
  method: string,
  path: string,
  headers: Readonly<Record<string, string | undefined>>,
  body: string | Uint8Array | null,
): Promise<Answer> {
  const data = body === null ? Buffer.alloc(0) : Buffer.from(body);
  const all = { host: `127.0.0.1:${port}`, connection: 'close', 'content-length': String(data.length), ...headers };
  const head = `${method} ${path} HTTP/1.1\r\n${Object.entries(all)
    .filter(([, value]) => value !== undefined)
    .map(([name, value]) => `${name}: ${value}\r\n`)
    .join('')}\r\n`;
  const what = `${method} ${path.slice(0, 100)} ${JSON.stringify(headers).slice(0, 200)} ${String(body).slice(0, 200)}`;
  return sent(port, Buffer.concat([Buffer.from(head), data]), what);
}

/** Some are begun and never ended: nothing is owed for those. */
const aRaw = async (port: number, text: string): Promise<Answer> => ({
  ...(await sent(port, Buffer.from(text), JSON.stringify(text.slice(0, 200)))),
  mayBe: 'nothing',
});

function sent(port: number, bytes: Buffer, what: string): Promise<Answer> {
  const since = performance.now();
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    let [status, length, answeredAt]: [number | null, number, number | null] = [null, 0, null];
    const end = () => {
      socket.destroy();
      // A connection that is kept for the next request is not slow.
      const milliseconds = (answeredAt ?? performance.now()) - since;
      resolve({ what, status, bytes: length, milliseconds, mayBe: 'anything' });
    };
    socket.setTimeout(ANSWER_MILLISECONDS, end);
    socket.on('data', (piece) => {
      status ??= Number(/^HTTP\/1\.\d (\d{3})/.exec(piece.toString('latin1'))?.[1] ?? Number.NaN);
      answeredAt ??= performance.now();
      length += piece.length;
      // What streams for ever was answered; nobody reads on.
      if (/text\/event-stream/.test(piece.toString('latin1'))) end();
    });
    socket.on('error', end).on('close', end);
    socket.write(bytes);
  });
}
