import { type Expression, GiveUp, type Statement } from '../../hdl/index.ts';
import { asNumber, Code } from './code.ts';
import { type Context, referenceOf } from './context.ts';
import { asText, emitFor, emitReal, emitSelf } from './expression.ts';
import { emitArguments } from './system-arguments.ts';
import { emitPut, NOW, type Putters, targetShape } from './target.ts';

type Call = Statement & { readonly kind: 'call' };

const EMITTERS = { emitSelf, emitReal, asText, emitFor };
/** Of `$display` and its like: where it goes, how numbers are shown, what ends it. */
const PRINTING = /^\$(f?)(display|write|strobe|monitor)([bho]?)$/;
/** Do nothing here: they speak of other tools or of how fast a simulation runs. */
const PASSED_OVER = new Set(['$dumpflush', '$dumplimit', '$fflush', '$timeskew', '$sdf_annotate', '$printtimescale']);

/** A system task. @source IEEE 1364-2005, clause 17 */
export function emitSystemTask({ name, arguments: values, at }: Call, context: Context, putters: Putters): void {
  const { code, shared, evaluation } = context;
  const printing = PRINTING.exec(name);
  if (printing) return emitPrinting(printing, values, at, context);
  const number = (one: Expression | undefined, otherwise: number): string =>
    one && one.kind !== 'nothing' ? asNumber(emitSelf(one, context), true) : `${otherwise}`;
  const where = () => `C[${shared.constants.push({ at, path: evaluation.scope.path }) - 1}]`;
  switch (name) {
    case '$finish':
      code.line('K.finish();');
      return;
    case '$stop':
      code.line('K.stop();');
      return;
    case '$error':
    case '$warning':
    case '$info':
    case '$fatal': {
      const rest = name === '$fatal' && values[0]?.kind === 'number' ? values.slice(1) : values;
      code.line(`K.report("${name.slice(1)}", K.format(${emitArguments(rest, context, EMITTERS)}), ${where()});`);
      return;
    }
    case '$monitoron':
    case '$monitoroff':
      code.line(`K.monitorOn(${name === '$monitoron'});`);
      return;
    case '$timeformat': {
      const [unit, digits, suffix, least] = values;
      code.line(
        `K.timeFormat(${number(unit, 0)}, ${number(digits, 0)}, ${suffix ? asText(suffix, context).v : '""'}, ${number(least, 20)});`,
      );
      return;
    }
    case '$fclose':
      code.line(`K.files.close(${number(values[0], 0)});`);
      return;
    case '$readmemh':
    case '$readmemb':
      return emitReadMemory(name, values, at, context);
    case '$writememh':
    case '$writememb': {
      const [file, memory] = values;
      if (!file || !memory) throw new GiveUp('arguments', at, `${name} takes a file name and a memory.`);
      const reference = referenceOf(memory, context);
      code.line(
        `K.writeMemory(${asText(file, context).v}, ${reference?.cell.id ?? 0}, ${name.endsWith('h') ? 16 : 2});`,
      );
      return;
    }
    case '$swrite':
    case '$sformat': {
      const [target, ...rest] = values;
      if (!target) throw new GiveUp('arguments', at, `${name} takes a variable.`);
      const text = code.held(`K.format(${emitArguments(rest, context, EMITTERS)})`);
      const shape = targetShape(target, context);
      if (shape.special === 'text')
        return emitPut(target, { kind: 'text', v: text, x: '0', width: 64 }, NOW, context, putters);
      const word = code.held(`K.textWord(${text}, ${shape.width})`);
      const isWide = shape.width > 32;
      const v = isWide ? `${word}.v` : code.held(`Number(BigInt.asIntN(32, ${word}.v))`);
      emitPut(
        target,
        { kind: isWide ? 'wide' : 'narrow', v, x: isWide ? '0n' : '0', width: shape.width },
        NOW,
        context,
        putters,
      );
      return;
    }
    case '$dumpfile':
      code.line(`K.setDumpFile(${values[0] ? asText(values[0], context).v : '"dump.vcd"'});`);
      return;
    case '$dumpvars':
    case '$dumpon':
    case '$dumpoff':
    case '$dumpall': {
      const [levels, ...scopes] = values;
      const names = scopes.map((one) => JSON.stringify(pathOf(one, evaluation.scope.path)));
      code.line(`K.dump("${name.slice(5)}", [${names.join(', ')}], ${number(levels, 0)});`);
      return;
    }
    default:
      if (PASSED_OVER.has(name)) return;
      // A function called as a task: its value is thrown away.
      emitSelf({ kind: 'call', at, name, arguments: values }, context);
  }
}

/** Arguments of a monitor or a strobe are worked out when it prints. */
function emitPrinting(
  [, isFile, kind, radix]: RegExpExecArray,
  values: readonly Expression[],
  at: Expression['at'],
  context: Context,
): void {
  const { code } = context;
  const shownIn = radix === '' ? 'd' : radix;
  const [first, ...others] = values;
  if (isFile && !first) throw new GiveUp('arguments', at, 'The file to write to is missing.');
  const file = isFile && first ? asNumber(emitSelf(first, context), false) : '1';
  const rest = isFile ? others : values;
  if (kind === 'display' || kind === 'write') {
    const end = kind === 'display' ? '"\\n"' : '""';
    const shown = emitArguments(rest, context, EMITTERS);
    code.line(
      isFile ? `K.displayTo(${file}, ${shown}, "${shownIn}", ${end});` : `K.display(${shown}, "${shownIn}", ${end});`,
    );
    return;
  }
  const own = new Code();
  const reads = new Set<number>();
  const shown = emitArguments(rest, { ...context, code: own, reads }, EMITTERS);
  const cut = shown.indexOf(', ');
  const [where, list] = [shown.slice(0, cut), shown.slice(cut + 2)];
  const look = `() => { ${own.text} return ${list}; }`;
  const kept = code.name('m');
  code.line(`const ${kept} = ${file};`);
  if (kind === 'strobe') code.line(`K.strobe(${kept}, ${where}, ${look}, "${shownIn}");`);
  else code.line(`K.monitor(${kept}, ${where}, ${look}, "${shownIn}", [${[...reads].join(', ')}]);`);
}

function emitReadMemory(name: string, values: readonly Expression[], at: Expression['at'], context: Context): void {
  const { code, shared } = context;
  const [file, memory, from, to] = values;
  if (!file || !memory) throw new GiveUp('arguments', at, `${name} takes a file name and a memory.`);
  const reference = referenceOf(memory, context);
  if (!reference || reference.cell.dimensions.length === 0)
    throw new GiveUp('arguments', memory.at, `${name} fills a memory; this is none.`);
  const place = `C[${shared.constants.push(at) - 1}]`;
  const bound = (one: Expression | undefined) => (one ? asNumber(emitSelf(one, context), true) : 'null');
  const base = name === '$readmemh' ? 16 : 2;
  code.line(
    `K.readMemory(${asText(file, context).v}, ${reference.cell.id}, ${base}, ${bound(from)}, ${bound(to)}, ${place});`,
  );
}

/** The full name of an instance, a block or a signal that `$dumpvars` names. */
function pathOf(expression: Expression, around: string): string {
  if (expression.kind === 'name') return `${around}|${expression.name}`;
  if (expression.kind === 'member') return `${pathOf(expression.base, around)}.${expression.name}`;
  return around;
}
