import { createServer, type IncomingMessage, request, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import fc from 'fast-check';
import { afterEach, describe, expect, test, vi } from 'vitest';
import { door } from './door.ts';
import { refusalOf } from './refusal.ts';
import { placeHere, SignIn, signInPage } from './sign-in.ts';

const TOKEN = 'a long enough token';
let http: Server | null = null;
afterEach(() => {
  http?.close();
  http = null;
  vi.unstubAllEnvs();
});

interface Answer {
  readonly status: number;
  readonly headers: IncomingMessage['headers'];
  readonly body: string;
}

/** A door with an application behind it that says which policy it was given; `ask` is a request through it. */
async function open(signIn: SignIn | null = null) {
  const served = createServer(
    (given, response) =>
      void door(async (inner, out) => {
        out.end(String(inner.headers['content-security-policy'] ?? 'inside'));
      }, signIn)(given, response),
  );
  http = served;
  await new Promise<void>((resolve) => served.listen(0, '127.0.0.1', resolve));
  const { port } = served.address() as AddressInfo;
  const own = `127.0.0.1:${port}`;
  const ask = (path: string, headers: Record<string, string> = {}, method = 'GET', body = '') =>
    new Promise<Answer>((resolve, reject) => {
      const asked = request(
        { host: '127.0.0.1', port, path, method, headers: { host: own, ...headers } },
        (response) => {
          const parts: Buffer[] = [];
          response.on('data', (part: Buffer) => parts.push(part));
          response.on('end', () =>
            resolve({
              status: response.statusCode ?? 0,
              headers: response.headers,
              body: Buffer.concat(parts).toString(),
            }),
          );
        },
      );
      asked.on('error', reject);
      asked.end(body);
    });
  const signing = (token: string, to = '/keep') =>
    ask('/sign-in', {}, 'POST', new URLSearchParams({ token, to }).toString());
  return { ask, own, signing };
}

describe('who may come in', () => {
  test.each([
    ['its own page', 'GET', { 'sec-fetch-site': 'same-origin' }, 200],
    ['a command, which says nothing of itself', 'POST', {}, 200],
    ['an address that was typed', 'GET', { 'sec-fetch-site': 'none' }, 200],
    ['a picture in a page elsewhere', 'GET', { 'sec-fetch-site': 'cross-site' }, 403],
    ['a page of another port', 'GET', { 'sec-fetch-site': 'same-site' }, 403],
    ['a form of a page elsewhere', 'POST', { origin: 'http://elsewhere.example' }, 403],
    ['a page in a sandbox', 'POST', { origin: 'null' }, 403],
    ['an origin that is none', 'POST', { origin: 'rain' }, 403],
    ['another name', 'GET', { host: 'elsewhere.example' }, 403],
    ['a name that begins like ours', 'GET', { host: '127.0.0.1.elsewhere.example' }, 403],
    ['TRACE', 'TRACE', {}, 405],
    ['PUT', 'PUT', {}, 405],
  ])('%s', async (_, method, headers, status) => {
    const { ask } = await open();
    const answer = await ask('/api/events', headers, method);
    expect(answer.status).toBe(status);
    if (status !== 200) expect(JSON.parse(answer.body).problem.tryNext.length).toBeGreaterThan(0);
  });

  test.each([
    ['a link in a page elsewhere, in a browser that says nothing', {}, 403],
    ['our own page', { 'x-nimble-page': '1', 'sec-fetch-site': 'same-origin' }, 200],
    ['a script that says so', { 'x-nimble-page': '1' }, 200],
    ['a page elsewhere that says so', { 'x-nimble-page': '1', 'sec-fetch-site': 'cross-site' }, 403],
  ])('what takes long to make is made for %s: %#', async (_, headers, status) => {
    const { ask } = await open();
    for (const path of ['/api/svf/export', '/api/projects/1/zip', '/api/captures/1/vcd'])
      expect((await ask(path, headers)).status).toBe(status);
  });

  test('our own origin may write; a page may be linked to from elsewhere', async () => {
    const { ask, own } = await open();
    expect((await ask('/api/call/x', { origin: `http://${own}` }, 'POST')).status).toBe(200);
    expect((await ask('/keep', { 'sec-fetch-site': 'cross-site' })).status).toBe(200);
  });

  test('other names are those that were given, in any letters', async () => {
    vi.stubEnv('NIMBLE_HOSTS', 'desk.lab, Other.Lab');
    const { ask } = await open();
    for (const host of ['desk.lab', 'DESK.LAB:8080', 'other.lab']) expect((await ask('/', { host })).status).toBe(200);
    expect((await ask('/', { host: 'third.lab' })).status).toBe(403);
  });

  test('whatever stands in the headers, it is let in or refused, never failed', () => {
    const odd = fc.option(fc.oneof(fc.string(), fc.webUrl(), fc.constantFrom('null', 'file://', 'http://[', 'a:b')));
    fc.assert(
      fc.property(odd, odd, odd, odd, fc.string(), (host, origin, site, page, path) => {
        const refused = refusalOf({ method: 'GET', path, host, origin, site, page }, []);
        expect([undefined, 403]).toContain(refused?.status);
      }),
    );
  });
});

describe('what browsers are told', () => {
  test('each page has a nonce of its own, which the application is told and a client cannot choose', async () => {
    const { ask } = await open();
    const [first, second] = [
      await ask('/keep'),
      await ask('/keep', { 'content-security-policy': "script-src 'nonce-x'" }),
    ];
    const nonce = (answer: Answer) => /'nonce-([^']+)'/.exec(answer.body)?.[1];
    expect(nonce(first)).toMatch(/^[A-Za-z0-9+/]{22}==$/);
    expect(nonce(second)).not.toBe(nonce(first));
    expect(nonce(second)).not.toBe('x');
    expect(first.headers['content-security-policy']).toBe(first.body);
    expect(first.body).not.toMatch(/script-src[^;]*unsafe-inline/);
    expect(first.body).toContain("frame-ancestors 'none'");
  });

  test('every answer says that it is what it says, and goes into no frame', async () => {
    const { ask } = await open();
    for (const path of ['/', '/api/events', '/sign-in', '/_next/static/x.js']) {
      const { headers } = await ask(path);
      expect([headers['x-content-type-options'], headers['x-frame-options'], headers['referrer-policy']]).toEqual([
        'nosniff',
        'DENY',
        'no-referrer',
      ]);
    }
    expect((await ask('/api/x', { 'content-security-policy': 'mine' }, 'POST')).body).toBe('inside');
  });
});

describe('signing in', () => {
  test('without a session pages lead to it, calls are refused, and with it both are there', async () => {
    const { ask, signing } = await open(new SignIn(TOKEN));
    const page = await ask('/keep/write?x=1');
    expect([page.status, page.headers.location]).toEqual([303, '/sign-in?to=%2Fkeep%2Fwrite%3Fx%3D1']);
    const call = await ask('/api/call/x', {}, 'POST');
    expect([call.status, JSON.parse(call.body).problem.code]).toEqual([401, 'sign-in']);
    expect((await ask('/_next/static/x.css')).status).toBe(200);
    const wrong = await signing('not the token');
    expect([wrong.status, wrong.headers['set-cookie']]).toEqual([403, undefined]);
    const signed = await signing(TOKEN);
    expect([signed.status, signed.headers.location]).toEqual([303, '/keep']);
    const [cookie = ''] = signed.headers['set-cookie'] ?? [];
    expect(cookie).toMatch(/; HttpOnly; SameSite=Strict$/);
    const session = { cookie: cookie.split(';', 1)[0] ?? '' };
    expect((await ask('/api/call/x', session, 'POST')).status).toBe(200);
    expect((await ask('/keep', session)).status).toBe(200);
    expect((await ask('/keep', { cookie: `${session.cookie}x` })).status).toBe(303);
  });

  test('over HTTPS the cookie is for HTTPS alone', async () => {
    const { ask } = await open(new SignIn(TOKEN));
    const body = new URLSearchParams({ token: TOKEN }).toString();
    const { headers } = await ask('/sign-in', { 'x-forwarded-proto': 'https' }, 'POST', body);
    expect(headers['set-cookie']?.[0]).toMatch(/; Secure$/);
  });

  test('guessing is stopped, for each address and for all; a minute later it goes on', () => {
    let now = 1e12;
    const signIn = new SignIn(TOKEN, () => now);
    for (let i = 0; i < 5; i++) expect(signIn.session(`${i}`, 'a')).toBe('wrong');
    expect(signIn.session(TOKEN, 'a')).toBe('wait');
    expect(signIn.session(TOKEN, 'b')).not.toBe('wait');
    for (let i = 0; i < 45; i++) expect(signIn.session('guess', `address ${i}`)).toBe('wrong');
    expect(signIn.session(TOKEN, 'yet another')).toBe('wait');
    now += 61_000;
    expect(signIn.session(TOKEN, 'a')).toHaveProperty('cookie');
  });

  test('a session ends by itself, with another token, and not by a restart', () => {
    let now = 1e12;
    const signIn = new SignIn(TOKEN, () => now);
    const made = signIn.session(TOKEN, 'a');
    const cookie = `x=1; nimble-session=${typeof made === 'object' ? made.cookie : ''}`;
    expect(signIn.knows(cookie)).toBe(true);
    expect(new SignIn(TOKEN, () => now).knows(cookie)).toBe(true);
    expect(new SignIn('another long token', () => now).knows(cookie)).toBe(false);
    expect([signIn.knows(undefined), signIn.knows('nimble-session=1.x'), signIn.knows('nimble-session=')]).toEqual([
      false,
      false,
      false,
    ]);
    now += 13 * 3600_000;
    expect(signIn.knows(cookie)).toBe(false);
  });

  test('where to go is a place of this server, and the page takes no markup from outside', async () => {
    expect(['/keep?a=1', '//elsewhere.example', '/\\elsewhere', 'http://x', '/sign-in', null].map(placeHere)).toEqual([
      ...['/keep?a=1', '/', '/', '/', '/', '/'],
    ]);
    expect(signInPage('ask', '/"><script>')).not.toContain('<script>');
    const { ask } = await open(new SignIn(TOKEN));
    expect((await ask('/sign-in?to=//elsewhere.example')).body).toContain('name="to" value="/"');
    expect((await ask('/sign-in', {}, 'POST', 'x'.repeat(10_000))).status).toBe(400);
  });

  test('where nobody has to, the way there leads back', async () => {
    const { ask } = await open();
    expect((await ask('/sign-in?to=/keep')).headers.location).toBe('/keep');
  });
});
