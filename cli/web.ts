// The workbench as a process: the built application behind its door.
import { createServer } from 'node:http';
import { parseArgs } from 'node:util';
import next from 'next';
import { door, otherHosts, SignIn } from '../door/index.ts';

const { values } = parseArgs({
  options: {
    hostname: { type: 'string', default: '127.0.0.1' },
    port: { type: 'string', default: '3210' },
  },
});
const LOOPBACK = ['127.0.0.1', '::1', 'localhost'];
/** Short enough to be typed, long enough that nobody guesses it at the rate that is allowed. */
const LEAST_TOKEN = 16;
const MOST_CONNECTIONS = 1000;

const token = process.env.NIMBLE_TOKEN ?? '';
const isOpen = !LOOPBACK.includes(values.hostname) || otherHosts().length > 0;
if (token === '' && isOpen) stop(`It would be open to others than this machine without a token.`);
if (token !== '' && token.length < LEAST_TOKEN) stop(`NIMBLE_TOKEN has fewer than ${LEAST_TOKEN} characters.`);

const { hostname } = values;
const port = Number(values.port);
const application = next({ dev: false, dir: process.cwd(), hostname, port });
const http = createServer();
http.maxConnections = MOST_CONNECTIONS;
await application.prepare();
const handle = application.getRequestHandler();
const inside = door((request, response) => handle(request, response), token === '' ? null : new SignIn(token));
http.on('request', (request, response) => {
  inside(request, response).catch((error: unknown) => {
    console.error(error);
    if (!response.headersSent) response.writeHead(500);
    response.end();
  });
});
http.on('error', (error) => stop(`It cannot listen at ${hostname}:${port}: ${error.message}.`));
http.listen(port, hostname, () => {
  console.log(`Nimble Signal at http://${hostname}:${port}`);
  console.log(
    token === ''
      ? 'Everybody on this machine can use it: there is no sign-in. Set NIMBLE_TOKEN for one.'
      : 'It asks for NIMBLE_TOKEN at the door.',
  );
});

function stop(why: string): never {
  console.error(
    `${why}\nSet NIMBLE_TOKEN to a long text that nobody knows, such as 32 random characters, and start again.`,
  );
  process.exit(1);
}
