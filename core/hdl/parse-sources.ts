import type { Token } from './lexer.ts';
import type { Messages } from './message.ts';
import { type Parsed, parseModules } from './parse-module.ts';
import { Preprocessor, type SourceFile } from './preprocess.ts';

export type { SourceFile } from './preprocess.ts';

/** Reads Verilog files as one compilation unit. Header files (.vh) are read only where they are included. */
export function parseSources(files: readonly SourceFile[], messages: Messages): Parsed {
  const preprocessor = new Preprocessor(files, messages);
  const tokens: Token[] = [];
  for (const file of files) if (/\.s?v$/.test(file.name)) tokens.push(...preprocessor.run(file));
  return parseModules(tokens, messages);
}
