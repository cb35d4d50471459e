import { closeSync, openSync, writeSync } from 'node:fs';
import { createInterface } from 'node:readline';
import type { Command } from 'commander';
import { Conversation, loadBitstream, sendAll } from '../core/operations/index.ts';
import { type Progress, unwatched } from '../core/progress.ts';
import { settle } from '../core/result.ts';
import {
  bytesOfHex,
  type Fit,
  hexOf,
  LINE_ENDS,
  type LineSettings,
  type LogLine,
  lineSettings,
  readable,
  settingsText,
  troubleWords,
} from '../core/serial/index.ts';
import { type ConnectionOptions, connectLine, type LineConnection, withConnection } from './connection.ts';
import { readBytes } from './files.ts';
import { loadDeed, openBitstream } from './load.ts';
import { CallError, report } from './output.ts';

interface Options extends ConnectionOptions {
  readonly baud?: string;
  readonly bits?: string;
  readonly parity?: string;
  readonly stop?: string;
  readonly flow?: string;
  readonly hex?: boolean;
  readonly times?: boolean;
  readonly send: readonly string[];
  readonly sendHex?: string;
  readonly sendFile?: string;
  readonly lineEnd: string;
  readonly break?: string;
  readonly until?: string;
  readonly timeout?: string;
  readonly log?: string;
  readonly load?: string;
  readonly earlier?: boolean;
  readonly json?: boolean;
}

const USUAL_TIMEOUT = 10_000;
/** A line that goes on is shown once nothing has come for so long. */
const SHOWN_AFTER_MILLISECONDS = 200;
const LOOK_MILLISECONDS = 20;
/** Time for the pod to take the last bytes, and for an answer. */
const LINGER_MILLISECONDS = 300;

export function serialCommand(program: Command, failed: () => void): void {
  withConnection(
    program
      .command('serial')
      .description('the serial line of a board: listen, send, wait for a text')
      .option('--baud <rate>', 'bits a second; as the pod has it otherwise')
      .option('--bits <n>', 'data bits, 5 to 8')
      .option('--parity <which>', 'none, even or odd')
      .option('--stop <n>', 'stop bits, 1 or 2')
      .option('--flow <how>', 'none, rts-cts or xon-xoff')
      .option('--hex', 'show bytes as hexadecimal digits')
      .option('--times', 'show when each line began')
      .option(
        '--send <text>',
        'a line to send; may be given several times',
        (text, all: string[]) => [...all, text],
        [],
      )
      .option('--send-hex <digits>', 'bytes to send, as hexadecimal digits')
      .option('--send-file <file>', 'a file to send as it is')
      .option('--line-end <which>', 'behind each line that is sent: none, lf, cr or cr-lf', 'lf')
      .option('--break <time>', 'hold the line at 0 first, as 250ms')
      .option('--until <text>', 'end when this has come; exit 1 where it does not')
      .option('--timeout <time>', 'how long to listen, as 2s or 500ms')
      .option('--log <file>', 'write what comes into a file, byte for byte')
      .option('--load <file>', 'load this .nbits while the line is heard')
      .option('--earlier', 'begin with what the pod has kept from before'),
  ).action((options: Options) => serial(options, failed));
}

async function serial(options: Options, failed: () => void): Promise<void> {
  const call = callOf(options);
  const connection = await connectLine(options);
  const conversation = new Conversation();
  const log = options.log === undefined ? null : openSync(options.log, 'w');
  const printer = options.json ? null : new Printer(conversation, options);
  try {
    const from = options.earlier === true || options.bench !== undefined ? 0 : null;
    const { settings: present } = await connection.line.listenToLine(from, (message) => {
      conversation.heard(message, Date.now());
      if (log !== null) for (const { data } of message.runs) writeSync(log, Buffer.from(data, 'base64'));
    });
    const settings = await connection.line.setLine(settingsOf(options, present));
    const wait =
      options.until === undefined ? null : conversation.waitFor(options.until, call.timeout ?? USUAL_TIMEOUT);
    const loaded = options.load === undefined ? true : await load(connection, options.load);
    if (loaded) await talk(connection, conversation, options, call);
    const found = loaded && (wait ? await wait.found : await listened(connection, conversation, options, call));
    wait?.stop();
    printer?.end();
    if (!found) failed();
    if (options.json) report(true, documentOf(conversation, settings, options, found), () => '');
    else tellEnd(conversation, settings, options, found);
  } finally {
    printer?.end();
    if (log !== null) closeSync(log);
    await connection.close();
  }
}

interface Call {
  readonly timeout: number | null;
  readonly breakFor: number | null;
  readonly bytes: readonly Uint8Array[];
}

/** What of the call can be wrong before anything is touched. */
function callOf(options: Options): Call {
  const timeout = options.timeout === undefined ? null : millisecondsOf('--timeout', options.timeout);
  if (options.json && timeout === null && options.until === undefined)
    throw new CallError('With --json, say how long to listen: --until TEXT or --timeout 2s.');
  const end = Object.entries(LINE_ENDS).find(([name]) => name === options.lineEnd)?.[1];
  if (end === undefined) throw new CallError(`--line-end takes none, lf, cr or cr-lf, not "${options.lineEnd}".`);
  const hex = options.sendHex === undefined ? null : bytesOfHex(options.sendHex);
  if (options.sendHex !== undefined && hex === null)
    throw new CallError(`--send-hex takes pairs of hexadecimal digits, not "${options.sendHex}".`);
  const encoder = new TextEncoder();
  return {
    timeout,
    breakFor: options.break === undefined ? null : millisecondsOf('--break', options.break),
    bytes: [
      ...options.send.map((line) => encoder.encode(line + end)),
      ...(hex ? [hex] : []),
      ...(options.sendFile === undefined ? [] : [readBytes(options.sendFile)]),
    ],
  };
}

function millisecondsOf(name: string, text: string): number {
  const [, number, unit] = /^(\d+(?:\.\d+)?)(ms|s)$/.exec(text) ?? [];
  if (number === undefined) throw new CallError(`${name} takes a time with its unit, as 2s or 500ms, not "${text}".`);
  return Number(number) * (unit === 's' ? 1000 : 1);
}

function settingsOf(options: Options, present: LineSettings): LineSettings {
  const { baud, bits, parity, stop, flow } = options;
  const read = lineSettings.safeParse({
    rate: baud === undefined ? present.rate : Number(baud.replaceAll('_', '')),
    dataBits: bits === undefined ? present.dataBits : Number(bits),
    parity: parity ?? present.parity,
    stopBits: stop === undefined ? present.stopBits : Number(stop),
    flow: flow ?? present.flow,
  });
  if (read.success) return read.data;
  const names = { rate: '--baud', dataBits: '--bits', parity: '--parity', stopBits: '--stop', flow: '--flow' } as const;
  const [issue] = read.error.issues;
  const option = Object.entries(names).find(([name]) => name === issue?.path[0])?.[1];
  throw new CallError(`${option ?? 'The settings'}: ${issue?.message ?? 'wrong'}.`);
}

async function load({ withChain, tell }: LineConnection, path: string): Promise<boolean> {
  const bitstream = openBitstream(path);
  const loaded = await withChain((chain) => settle(() => loadBitstream(chain, bitstream, null, unwatched)));
  await tell(loadDeed(bitstream, path, loaded, null));
  const trouble = loaded.ok ? loaded.value.problem : loaded.error;
  if (trouble) console.error([trouble.message, ...trouble.tryNext].join('\n'));
  return trouble === null;
}

async function talk({ line }: LineConnection, { log }: Conversation, options: Options, call: Call): Promise<void> {
  if (call.breakFor !== null) await line.holdLineLow(call.breakFor);
  for (const bytes of call.bytes) {
    log.said(bytes, Date.now());
    await sendAll(line, bytes, { ...unwatched, report: options.json ? () => {} : shownProgress });
  }
}

function shownProgress({ done, total }: Progress): void {
  if (process.stderr.isTTY && total > 4096) process.stderr.write(`\rsending ${done} of ${total} bytes `);
}

/** Listens for a while, or until Ctrl-C; lines that are typed meanwhile are sent. */
async function listened({ line }: LineConnection, { log }: Conversation, options: Options, call: Call) {
  if (call.timeout !== null || call.bytes.length > 0) {
    await new Promise((resolve) => setTimeout(resolve, call.timeout ?? LINGER_MILLISECONDS));
    return true;
  }
  const end = Object.entries(LINE_ENDS).find(([name]) => name === options.lineEnd)?.[1] ?? '\n';
  const typed = createInterface({ input: process.stdin });
  typed.on('line', (text) => {
    const bytes = new TextEncoder().encode(text + end);
    log.said(bytes, Date.now());
    sendAll(line, bytes, unwatched).catch((error: Error) => console.error(error.message));
  });
  await new Promise<void>((resolve) => {
    process.once('SIGINT', () => resolve());
    typed.once('close', () => setTimeout(resolve, LINGER_MILLISECONDS));
  });
  typed.close();
  return true;
}

/** Shows lines as they end, and one that goes on once nothing more has come for a moment. */
class Printer {
  readonly #conversation: Conversation;
  readonly #options: Options;
  readonly #timer: ReturnType<typeof setInterval>;
  #next = 1;
  #bytes = 0;
  #since = 0;

  constructor(conversation: Conversation, options: Options) {
    this.#conversation = conversation;
    this.#options = options;
    this.#timer = setInterval(() => this.#look(false), LOOK_MILLISECONDS);
  }

  end(): void {
    clearInterval(this.#timer);
    this.#look(true);
  }

  #look(isLast: boolean): void {
    const { log } = this.#conversation;
    const all = log.linesFrom(this.#next, log.last);
    if (log.received + log.sent !== this.#bytes) this.#since = Date.now();
    this.#bytes = log.received + log.sent;
    const isQuiet = isLast || Date.now() - this.#since > SHOWN_AFTER_MILLISECONDS;
    for (const line of all) {
      if (line.number === log.last && !isQuiet && line.bytes.at(-1) !== 0x0a) break;
      console.log(shown(line, this.#options));
      this.#next = line.number + 1;
    }
  }
}

const MARK = { in: '', out: '> ', note: '-- ' } as const;

function shown({ way, at, bytes, troubles }: LogLine, { hex, times }: Options): string {
  const wrong = [...new Set(troubles.map(({ trouble }) => troubleWords(trouble)))];
  const text = hex && way !== 'note' ? hexOf(bytes) : readable(bytes, false);
  const when = times ? `${new Date(at).toISOString().slice(11, 23)}  ` : '';
  return `${when}${MARK[way]}${text}${wrong.length > 0 ? `   [${wrong.join('; ')}]` : ''}`;
}

const fitOf = (fit: Fit | null) =>
  fit && {
    ...fit.settings,
    text: settingsText(fit.settings),
    measured: fit.rate,
    frames: fit.frames,
    wrong: fit.wrong,
  };

function documentOf({ log, fit }: Conversation, settings: LineSettings, { until }: Options, found: boolean) {
  return {
    settings,
    fits: fitOf(fit),
    received: log.received,
    sent: log.sent,
    wrong: log.wrong,
    ...(until === undefined ? {} : { until, found }),
    lines: log.linesFrom(1, log.last).map(({ at, way, bytes, troubles }) => ({
      ...{ at: new Date(at).toISOString(), way, text: readable(bytes, false), hex: hexOf(bytes) },
      troubles,
    })),
  };
}

/** What a person should know at the end: that a text did not come, and that other settings would fit better. */
function tellEnd(
  { log, fit }: Conversation,
  settings: LineSettings,
  { until, timeout }: Options,
  found: boolean,
): void {
  if (until !== undefined && !found)
    console.error(
      `"${until}" did not come within ${timeout ?? `${USUAL_TIMEOUT / 1000}s`}; ${log.received} bytes did.`,
    );
  if (fit && log.wrong > 0 && settingsText(fit.settings) !== settingsText(settings))
    console.error(`${settingsText(fit.settings)} fits what comes; you are at ${settingsText(settings)}.`);
}
