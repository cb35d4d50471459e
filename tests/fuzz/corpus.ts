// What the inputs are made from: small files of each kind, what once went wrong, and those of the demo.
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const FOLDER = join('tests', 'corpus');

/** Bytes of the files of one reader, by name. */
export const corpusBytes = (reader: string): Uint8Array[] =>
  existsSync(join(FOLDER, reader))
    ? readdirSync(join(FOLDER, reader))
        .sort()
        .map((name) => new Uint8Array(readFileSync(join(FOLDER, reader, name))))
    : [];

export const corpusTexts = (reader: string): string[] =>
  corpusBytes(reader).map((bytes) => new TextDecoder().decode(bytes));

/** A line each. */
export const corpusLines = (reader: string): string[] =>
  corpusTexts(reader).flatMap((text) => text.split('\n').filter(Boolean));

export const demoText = (...path: string[]): string => readFileSync(join('demo', ...path), 'utf8');

export const demoTexts = (folder: string, end: string): string[] =>
  readdirSync(join('demo', folder))
    .filter((name) => name.endsWith(end))
    .sort()
    .map((name) => demoText(folder, name));
