import { createHash, createHmac, timingSafeEqual } from 'node:crypto';

const COOKIE = 'nimble-session';
const SESSION_MILLISECONDS = 12 * 3600_000;
/** Wrong tokens of one address, and of all, in one window of time; further ones are not looked at. */
const MOST_WRONG = 5;
const MOST_WRONG_OF_ALL = 50;
const WINDOW_MILLISECONDS = 60_000;
const MOST_ADDRESSES = 1000;

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();

/** Compares in a time that does not tell how much of it was right, whatever the lengths. */
const isSame = (a: string, b: string): boolean => timingSafeEqual(digest(a), digest(b));

/**
 * One token for everybody who may use the workbench from elsewhere. A session is a cookie that says until when, signed
 * with the token: it outlives a restart, and another token ends it (RFC 2104, HMAC).
 */
export class SignIn {
  readonly #token: string;
  readonly #now: () => number;
  #wrong = new Map<string, number>();
  #wrongOfAll = 0;
  #since = 0;

  constructor(token: string, now: () => number = Date.now) {
    this.#token = token;
    this.#now = now;
  }

  /** The cookie of a new session; `wait` where there were too many wrong ones, and this one was not looked at. */
  session(token: string, address: string): { readonly cookie: string } | 'wrong' | 'wait' {
    if (this.#now() - this.#since > WINDOW_MILLISECONDS) {
      this.#wrong = new Map();
      this.#wrongOfAll = 0;
      this.#since = this.#now();
    }
    const before = this.#wrong.get(address) ?? 0;
    if (before >= MOST_WRONG || this.#wrongOfAll >= MOST_WRONG_OF_ALL) return 'wait';
    if (isSame(token, this.#token)) return { cookie: this.#signed(this.#now() + SESSION_MILLISECONDS) };
    this.#wrongOfAll++;
    if (this.#wrong.size < MOST_ADDRESSES || before > 0) this.#wrong.set(address, before + 1);
    return 'wrong';
  }

  /** Whether a request with these cookies is of a session that holds. */
  knows(cookies: string | undefined): boolean {
    const given = (cookies ?? '')
      .split(';')
      .map((one) => one.trim())
      .find((one) => one.startsWith(`${COOKIE}=`))
      ?.slice(COOKIE.length + 1);
    const until = Number(/^(\d{1,16})\./.exec(given ?? '')?.[1] ?? 0);
    return given !== undefined && until > this.#now() && isSame(given, this.#signed(until));
  }

  #signed(until: number): string {
    return `${until}.${createHmac('sha256', this.#token).update(`session ${until}`).digest('base64url')}`;
  }
}

/** Kept from scripts and from requests of other sites; over HTTPS alone where it was given over it. */
export const setCookie = (value: string, isSecure: boolean): string =>
  `${COOKIE}=${value}; Path=/; Max-Age=${SESSION_MILLISECONDS / 1000}; HttpOnly; SameSite=Strict${isSecure ? '; Secure' : ''}`;

const PAGE_TEXT = {
  ask: '',
  wrong: 'This is not the token. Look where the workbench was started.',
  wait: 'Too many wrong tokens. Wait a minute, then try again.',
} as const;

/** The page that asks for the token. It needs no script, and knows nothing of the workbench behind it. */
export const signInPage = (say: keyof typeof PAGE_TEXT, to: string): string => `<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Sign in to Nimble Signal</title>
<style>
body { margin: 0; font: 16px/1.5 system-ui, sans-serif; background: #f6f3ec; color: #1d2433; }
main { max-width: 26rem; margin: 18vh auto 0; padding: 0 1.5rem; }
h1 { font-size: 1.4rem; margin: 0 0 .25rem; }
p { margin: 0 0 1rem; }
form { display: flex; gap: .5rem; }
input { flex: 1; min-width: 0; padding: .4rem .6rem; font: inherit; border: 1px solid #6b7280;
  background: #fffdf7; color: inherit; }
button { padding: .4rem 1rem; font: inherit; font-weight: bold; border: 0; background: #a33a12; color: #fffdf7; }
[role=alert] { border-left: 4px solid #a4161a; padding-left: .75rem; }
@media (prefers-color-scheme: dark) {
body { background: #14181f; color: #e9e6dd; } input { background: #1d232c; } }
</style>
</head>
<body>
<main>
<h1>Nimble Signal</h1>
<p>This workbench asks for the token it was started with.</p>
${say === 'ask' ? '' : `<p role="alert">${PAGE_TEXT[say]}</p>`}
<form method="post" action="/sign-in">
<input type="hidden" name="to" value="${escaped(to)}">
<input type="password" name="token" aria-label="Token" autocomplete="current-password" autofocus required>
<button>Sign in</button>
</form>
</main>
</body>
</html>
`;

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');

/** A place of this server, and none elsewhere. */
export const placeHere = (to: string | null): string =>
  to !== null && /^\/(?![/\\])[\x21-\x7e]*$/.test(to) && !to.startsWith('/sign-in') ? to.slice(0, 2000) : '/';
