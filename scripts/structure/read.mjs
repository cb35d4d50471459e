// Reads one source file: what it imports and exports, and how its text measures. Knows no rules.
import { readFileSync } from 'node:fs';
import { dirname, relative, resolve } from 'node:path';
import { parse } from '@babel/parser';

const SKIPPED = new Set([
  'loc',
  'start',
  'end',
  'leadingComments',
  'trailingComments',
  'innerComments',
  'extra',
  'tokens',
]);
const FUNCTIONS =
  /^(FunctionDeclaration|FunctionExpression|ArrowFunctionExpression|ObjectMethod|ClassMethod|ClassPrivateMethod)$/;

/**
 * - `imports`: `{ to, names, typeOnly, line }`; `to` is a path from the project's root for the project's own files,
 *   else the package's name; `names` are those taken, `*` for all.
 * - `exports`: `{ name, line }`, without those that are only handed on; `passes`: `{ name, as, to }` handed on.
 * - `casts`: lines of `as T`, `as const` apart; `long`: functions over `most` lines; `many`: functions with seven and
 *   more parameters; `wide`: lines over `width` that hold no string longer than a third of it.
 */
export function readSource(file, { most = 60, width = 120, parameters = 7 } = {}) {
  const text = readFileSync(file, 'utf8');
  const plugins = ['typescript', ...(file.endsWith('.tsx') ? ['jsx'] : [])];
  const tree = parse(text, { sourceType: 'module', plugins, createImportExpressions: true });
  const out = {
    file,
    text,
    imports: [],
    exports: [],
    passes: [],
    casts: [],
    long: [],
    many: [],
    wide: [],
    used: new Map(),
  };
  const at = (from) => (from.startsWith('.') ? relative('.', resolve(dirname(file), from)) : from);
  const take = (from, names, typeOnly, node) =>
    out.imports.push({ to: at(from), names, typeOnly, line: node.loc.start.line });
  for (const node of tree.program.body) statement(node, out, take, at);
  walk(tree.program, (node, parent) => {
    if (node.type === 'Identifier' || node.type === 'JSXIdentifier')
      out.used.set(node.name, (out.used.get(node.name) ?? 0) + 1);
    if (node.type === 'ImportExpression' && node.source.type === 'StringLiteral')
      take(node.source.value, ['*'], false, node);
    if (node.type === 'TSImportType')
      take((node.source ?? node.argument).value ?? (node.source ?? node.argument).literal.value, ['*'], true, node);
    if (
      node.type === 'NewExpression' &&
      node.callee.name === 'URL' &&
      node.arguments[0]?.type === 'StringLiteral' &&
      node.arguments[0].value.startsWith('.')
    )
      take(node.arguments[0].value, ['*'], false, node);
    if (
      node.type === 'TSAsExpression' &&
      !(node.typeAnnotation.type === 'TSTypeReference' && node.typeAnnotation.typeName.name === 'const')
    )
      out.casts.push(node.loc.start.line);
    if (!FUNCTIONS.test(node.type)) return;
    const lines = node.loc.end.line - node.loc.start.line + 1;
    const name =
      node.id?.name ?? node.key?.name ?? node.key?.id?.name ?? parent?.id?.name ?? parent?.key?.name ?? 'a function';
    if (lines > most) out.long.push({ name, lines, line: node.loc.start.line });
    if (node.params.length >= parameters) out.many.push({ name, count: node.params.length, line: node.loc.start.line });
  });
  for (const [i, line] of text.split('\n').entries())
    if (
      line.length > width &&
      !/(['"`/])(?:(?!\1).){40,}/.test(line) &&
      !/^\s*(\/\/ biome-ignore|import|\} from)/.test(line) &&
      !/^\s*[^\s]+$/.test(line)
    )
      out.wide.push(i + 1);
  return out;
}

function statement(node, out, take, at) {
  if (node.type === 'ImportDeclaration') {
    const whole = node.importKind === 'type';
    const kinds = new Map([
      [true, []],
      [false, []],
    ]);
    for (const one of node.specifiers)
      kinds
        .get(whole || one.importKind === 'type')
        .push(
          one.type === 'ImportSpecifier'
            ? (one.imported.name ?? one.imported.value)
            : one.type === 'ImportDefaultSpecifier'
              ? 'default'
              : '*',
        );
    for (const [typeOnly, names] of kinds) if (names.length > 0) take(node.source.value, names, typeOnly, node);
    if (node.specifiers.length === 0) take(node.source.value, [], false, node);
  } else if (node.type === 'ExportAllDeclaration') {
    out.passes.push({ name: '*', as: '*', to: at(node.source.value) });
    take(node.source.value, ['*'], node.exportKind === 'type', node);
  } else if (node.type === 'ExportNamedDeclaration' && node.source) {
    // `export * as name` takes all of the other file.
    const nameOf = (one) => one.local?.name ?? '*';
    const names = node.specifiers.map(nameOf);
    for (const one of node.specifiers)
      out.passes.push({
        name: nameOf(one),
        as: one.exported.name,
        to: at(node.source.value),
        line: one.loc.start.line,
      });
    take(node.source.value, names, node.exportKind === 'type', node);
  } else if (node.type === 'ExportNamedDeclaration') {
    for (const one of node.specifiers) out.exports.push({ name: one.exported.name, line: one.loc.start.line });
    const { declaration } = node;
    const named =
      declaration?.declarations?.flatMap(({ id }) =>
        id.type === 'Identifier' ? [id] : (id.properties ?? id.elements ?? []).map((p) => p.value ?? p),
      ) ?? (declaration?.id ? [declaration.id] : []);
    for (const id of named) out.exports.push({ name: id.name, line: id.loc.start.line });
  } else if (node.type === 'ExportDefaultDeclaration') out.exports.push({ name: 'default', line: node.loc.start.line });
}

function walk(node, visit, parent = null) {
  visit(node, parent);
  for (const [key, value] of Object.entries(node)) {
    if (SKIPPED.has(key) || value === null || typeof value !== 'object') continue;
    for (const child of Array.isArray(value) ? value : [value])
      if (child && typeof child.type === 'string') walk(child, visit, node);
  }
}
