import Papa from 'papaparse';
import { base64FromBytes } from '../../core/bits/index.ts';
import { sendAll } from '../../core/operations/index.ts';
import { unwatched } from '../../core/progress.ts';
import { fail, ok } from '../../core/result.ts';
import {
  hexOf,
  type LineSettings,
  type LogLine,
  readable,
  settingsText,
  troubleWords,
} from '../../core/serial/index.ts';
import type { GivenFile } from '../threads/index.ts';
import type { Given } from './needs.ts';
import { problem } from './problems.ts';

type Needs = Pick<Given, 'board' | 'jobs' | 'lines'>;

const MILLISECONDS_A_LOOK = 100;

/** Lines from a number on, their bytes as base64; the last one may still go on. */
export function linesFrom(on: Needs, from: number, most: number) {
  const { log } = on.lines.talk;
  return {
    first: log.first,
    last: log.last,
    lines: log.linesFrom(from, most).map((line) => ({ ...line, bytes: base64FromBytes(line.bytes) })),
  };
}

export async function setLineNow(on: Needs, settings: LineSettings): Promise<LineSettings> {
  const made = await on.board.hands().setLine(settings);
  on.lines.respoken();
  on.lines.note(`from here at ${settingsText(made)}`);
  return made;
}

export async function sayNow(on: Needs, bytes: Uint8Array): Promise<void> {
  const hands = on.board.hands();
  on.lines.said(bytes);
  await sendAll(hands, bytes, unwatched);
}

export async function holdLowNow(on: Needs, milliseconds: number): Promise<void> {
  await on.board.hands().holdLineLow(milliseconds);
  on.lines.note(`break of ${milliseconds} ms sent`);
}

/** Sends a file as it is; cancelled, what waits at the pod is dropped. */
export function sendFile(on: Needs, { name, bytes }: GivenFile): number {
  return on.jobs.start('line', {
    kind: 'line',
    title: `Send ${name}`,
    board: on.board.name,
    work: async (watch, note) => {
      note({ file: name });
      const hands = on.board.hands();
      on.lines.note(`${name}, ${bytes.length} bytes, is sent`);
      const sent = await sendAll(hands, bytes, watch);
      return ok(`${name}: ${sent} ${sent === 1 ? 'byte has' : 'bytes have'} left for the board.`);
    },
  }).id;
}

/** Waits until a text comes, for so many seconds. */
export function waitForText(on: Needs, text: string, seconds: number): number {
  return on.jobs.start('line-wait', {
    kind: 'line',
    title: `Wait for “${text}”`,
    board: on.board.name,
    work: async (watch, note) => {
      note({ text });
      const began = Date.now();
      const wait = on.lines.talk.waitFor(text, seconds * 1000);
      let cancelled = false;
      const look = setInterval(() => {
        watch.report({
          ...{ phase: 'listening', unit: 's', total: seconds },
          done: Math.min(seconds, Math.round((Date.now() - began) / 1000)),
        });
        if (!watch.cancelled()) return;
        cancelled = true;
        wait.stop();
      }, MILLISECONDS_A_LOOK);
      const found = await wait.found;
      clearInterval(look);
      if (found) return ok(`“${text}” came after ${((Date.now() - began) / 1000).toFixed(1)} s.`);
      return fail(cancelled ? problem('cancelled (line)', { text }) : problem('line-silent', { text, seconds }));
    },
  }).id;
}

/** All that is kept, for a file: as text with times, as bytes that came, or as a table. */
export function lineFile(
  on: Needs,
  form: 'text' | 'bytes' | 'csv',
): { readonly name: string; readonly body: string | Uint8Array } {
  const { log } = on.lines.talk;
  const lines = log.linesFrom(log.first, log.last);
  if (form === 'bytes')
    return { name: 'line.bin', body: joined(lines.filter(({ way }) => way === 'in').map(({ bytes }) => bytes)) };
  if (form === 'text') return { name: 'line.txt', body: lines.map((line) => `${textLine(line)}\n`).join('') };
  const heads = ['number', 'time', 'way', 'bytes', 'text', 'wrong'];
  const rows = lines.map(({ number, at, way, bytes, troubles }) => [
    ...[number, new Date(at).toISOString(), way, hexOf(bytes), readable(bytes, true)],
    troubles.map(({ index, trouble }) => `byte ${index}: ${troubleWords(trouble)}`).join('; '),
  ]);
  // A spreadsheet would take some of what boards say for formulas.
  return { name: 'line.csv', body: `${Papa.unparse([heads, ...rows], { newline: '\n', escapeFormulae: true })}\n` };
}

const MARK = { in: '<', out: '>', note: '-' } as const;

const textLine = ({ at, way, bytes }: LogLine): string =>
  `${new Date(at).toISOString()} ${MARK[way]} ${readable(bytes, false)}`;

function joined(pieces: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    all.set(piece, at);
    at += piece.length;
  }
  return all;
}
