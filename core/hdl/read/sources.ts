import { GiveUp, Messages } from './message.ts';
import { type Parsed, parseModules } from './module.ts';
import { findBeside, Preprocessor, type SourceFile } from './preprocess.ts';

/** What reading a file gave, kept for as long as nothing it depends on changes. */
interface ReadFile {
  readonly depends: string;
  readonly parsed: Parsed;
  readonly messages: Messages;
  /** Macros and type names as they stand behind the file. */
  readonly macros: ReturnType<Preprocessor['snapshot']>;
  readonly types: readonly string[];
}

/** Files read in earlier builds, by name. */
export type SourceMemory = Map<string, ReadFile>;

interface ParsedSources extends Parsed {
  readonly filesRead: number;
  readonly filesKnown: number;
}

const HEADER = /\.s?vh$/;

/**
 * Reads Verilog files as one compilation unit, packages first whatever the order of the files. Header files (.vh), and
 * files that another one includes, are read only there.
 */
export function parseSources(
  files: readonly SourceFile[],
  messages: Messages,
  memory: SourceMemory = new Map(),
): ParsedSources {
  const preprocessor = new Preprocessor(files, messages);
  const included = includedIn(files);
  const headers = files
    .filter((file) => HEADER.test(file.name) || included.has(file))
    .map((file) => file.text)
    .join('\u0000');
  const types = new Set<string>();
  const all: Parsed[] = [];
  let filesKnown = 0;
  const sources = [...files.filter((file) => /\.s?v$/.test(file.name) && !included.has(file))].sort(
    (a, b) => Number(definesPackage(b)) - Number(definesPackage(a)),
  );
  for (const file of sources) {
    const depends = `${file.language ?? ''}\u0000${file.text}\u0000${headers}\u0000${preprocessor.describe()}\u0000${[...types].join(' ')}`;
    const known = memory.get(file.name);
    const read = known?.depends === depends ? known : readFile(file, files, preprocessor, types, depends);
    if (read === known) filesKnown++;
    memory.set(file.name, read);
    preprocessor.restore(read.macros);
    for (const name of read.types) types.add(name);
    for (const m of read.messages.list)
      messages.add(m.severity, m.code, m, m.message, {
        ...(m.fix ? { fix: m.fix } : {}),
        ...(m.trail ? { trail: m.trail } : {}),
      });
    all.push(read.parsed);
  }
  return {
    modules: all.flatMap((p) => p.modules),
    packages: all.flatMap((p) => p.packages),
    primitives: all.flatMap((p) => p.primitives),
    outside: all.flatMap((p) => p.outside),
    broken: new Set(all.flatMap((p) => [...p.broken])),
    filesRead: sources.length,
    filesKnown,
  };
}

const INCLUDE = /^[ \t]*`include[ \t]+"([^"\n]+)"/gm;

/** Files that are included by others. */
function includedIn(files: readonly SourceFile[]): ReadonlySet<SourceFile> {
  const byName = new Map(files.map((file) => [file.name, file]));
  const found = new Set<SourceFile>();
  for (const file of files)
    for (const [, wanted] of file.text.matchAll(INCLUDE)) {
      const other = findBeside(byName, wanted ?? '', file.name);
      if (other && other !== file) found.add(other);
    }
  return found;
}

const definesPackage = (file: SourceFile): boolean => /^\s*package\s/m.test(file.text);

function readFile(
  file: SourceFile,
  files: readonly SourceFile[],
  before: Preprocessor,
  types: ReadonlySet<string>,
  depends: string,
): ReadFile {
  const messages = new Messages();
  const preprocessor = new Preprocessor(files, messages);
  preprocessor.restore(before.snapshot());
  const found = new Set(types);
  const parsed = taken(() => parseModules(preprocessor.run(file), messages, found), messages);
  return { depends, parsed, messages, macros: preprocessor.snapshot(), types: [...found] };
}

/** Sources that grow beyond all bounds are reported, and leave nothing. */
function taken(read: () => Parsed, messages: Messages): Parsed {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof GiveUp)) throw error;
    messages.error(error.code, error.place, error.message);
    return { modules: [], packages: [], primitives: [], outside: [], broken: new Set() };
  }
}
