// IEEE 1364-2005, clause by clause: which test shows that it is read as it says, and what is left out. Numbers and titles
// of the clauses are from memory.
import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';

const FILES = {
  events: 'core/sim/events/language.test.ts',
  newer: 'core/sim/events/system-verilog.test.ts',
  language: 'core/hdl/language.test.ts',
  storeys: 'core/hdl/storeys.test.ts',
  types: 'core/hdl/types.test.ts',
  hdl: 'core/hdl/hdl.test.ts',
  memories: 'core/hdl/memory-writes.test.ts',
} as const;

type Shown = readonly [file: keyof typeof FILES, title: string];

/** Clause, what it is about, and the tests; none where it is passed over, as docs/verilog.md says. */
const CLAUSES: readonly (readonly [clause: string, about: string, ...shown: Shown[]])[] = [
  ['3.1', 'tokens, white space, comments', ['hdl', 'mutilated sources end in messages, never in a crash']],
  [
    '3.5',
    'numbers',
    ['events', '%s as %s'],
    ['events', 'reals: decimal and scientific, rounded halves away from zero'],
  ],
  ['3.6', 'strings', ['events', 'a string in a vector is right-justified, and can be joined']],
  ['3.7', 'identifiers, escaped ones, keywords', ['language', 'names can be escaped, and a keyword may be one then']],
  ['3.7.3', 'keywords of another standard', ['newer', 'begin_keywords decides for the lines it holds']],
  ['3.8', 'attributes'],
  ['4.1', 'value set', ['events', 'clause 5, expressions']],
  ['4.2', 'nets and variables', ['events', 'several drivers of the kinds of nets']],
  ['4.3', 'vectors', ['hdl', 'replication and part selects']],
  ['4.4', 'strengths', ['events', 'strengths decide, a pull gives way']],
  ['4.5', 'implicit declarations', ['types', 'an undeclared net at a port is one bit wide and said so']],
  ['4.6', 'kinds of nets', ['storeys', 'wired nets, pulls, supplies, rows of gates']],
  ['4.8', 'integers, reals, times', ['events', 'reals: decimal and scientific, rounded halves away from zero']],
  ['4.9', 'arrays', ['types', 'a memory of two ranges, and one written byte by byte, stay memories']],
  ['4.10', 'parameters', ['storeys', 'functions in ranges, before they are declared, recursive']],
  ['5.1', 'operators', ['events', 'clause 5, expressions'], ['language', 'any expression agrees with a model']],
  ['5.1.2', 'precedence', ['hdl', 'precedence: & before ^ before |, shifts before comparisons']],
  ['5.1.5', 'arithmetic', ['language', 'division truncates towards zero, a remainder has the sign of its dividend']],
  ['5.1.7', 'relational operators', ['hdl', 'signed comparison'], ['hdl', 'unsigned comparison']],
  ['5.1.8', 'equality', ['events', 'clause 5, expressions']],
  ['5.1.12', 'shifts', ['hdl', '>>> fills with the sign only when signed']],
  ['5.1.13', 'conditional operator', ['events', 'clause 5, expressions']],
  ['5.1.14', 'concatenation', ['hdl', 'operands of a concatenation stand alone']],
  ['5.2.1', 'selects of bits and parts', ['events', 'selects over the end read x and write only what exists']],
  ['5.2.2', 'words of arrays', ['events', 'a word outside a memory reads x, and nothing is written there']],
  ['5.4', 'widths', ['hdl', 'a sum keeps its carry when the target is wider']],
  ['5.5', 'signs', ['hdl', 'one unsigned operand makes all unsigned']],
  ['6.1', 'continuous assignments', ['events', 'parts driven apart are no conflict']],
  ['6.1.3', 'delays of nets', ['events', 'delays of gates and nets are inertial; rise, fall and turn-off differ']],
  ['6.2', 'procedural assignments', ['events', 'blocking assignments follow each other']],
  ['7.2', 'gates', ['events', 'gates, rows of gates, drivers and what is left unconnected']],
  ['7.8', 'pulls', ['events', 'strengths decide, a pull gives way']],
  ['7.14', 'delays of gates', ['events', 'delays of gates and nets are inertial; rise, fall and turn-off differ']],
  ['8', 'primitives given by tables', ['events', 'a primitive given by a table: combinational and with a state']],
  ['9.2.1', 'blocking assignment', ['language', 'blocking assignments are seen by the next line']],
  ['9.2.2', 'non-blocking assignment', ['events', 'blocking assignments follow each other']],
  [
    '9.3',
    'assign, force',
    ['events', 'procedural assign and force hold over other writes; release and deassign let go'],
  ],
  ['9.4', 'if', ['events', 'if, case, casez and casex with unknown values']],
  ['9.5', 'case', ['events', 'a case of signed and unsigned items compares unsigned at the widest']],
  ['9.5.1', 'casez, casex', ['language', 'casex leaves x and z digits open, casez only z']],
  ['9.6', 'loops', ['events', 'loops'], ['language', 'loops of every kind that end when the design is built']],
  ['9.7.1', 'delays', ['events', 'delays, events, wait and named events']],
  ['9.7.2', 'events', ['events', 'edges from and to unknown'], ['events', 'edges of a bit and of an expression']],
  ['9.7.5', 'implicit event list', ['events', 'always @* reads what its statement reads, and not at the start']],
  ['9.7.6', 'wait', ['events', 'delays, events, wait and named events']],
  ['9.7.7', 'timing inside assignments', ['events', 'intra-assignment delays take the value before they wait']],
  ['9.8.2', 'parallel blocks', ['events', 'fork and join; disable of a block elsewhere and of a task']],
  ['9.9', 'initial and always', ['language', 'power-up values from a declaration and from an initial block']],
  ['10.2', 'tasks', ['events', 'tasks with delays, in several processes at once where they are automatic']],
  ['10.3', 'disable', ['types', 'leaves a block or a task around by name']],
  ['10.4', 'functions', ['events', 'an automatic function calls itself; a function may stand behind its use']],
  ['10.4.5', 'constant functions', ['storeys', 'functions in ranges, before they are declared, recursive']],
  ['11.3', 'the stratified queue', ['events', 'blocking assignments follow each other']],
  [
    '12.2',
    'parameters of instances',
    ['storeys', 'defparam, from beside and from above; one that sets nothing is told'],
  ],
  ['12.3', 'ports', ['language', 'named and wildcard connections, open ports']],
  ['12.3.9', 'ports of other widths', ['hdl', 'complaints name their place']],
  ['12.4', 'generate', ['events', 'generate, and instances that contain themselves until their parameters end it']],
  ['12.5', 'hierarchical names', ['events', 'names of other instances, upwards and downwards; defparam']],
  ['12.7', 'scopes', ['types', 'names inside them are reached from outside by index']],
  ['13', 'configurations'],
  ['14', 'specify blocks'],
  ['15', 'timing checks'],
  ['16', 'backannotation'],
  ['17.1', 'display', ['events', 'values without a format, and lists with gaps']],
  ['17.1.3', 'monitoring', ['events', '$monitor prints at the end of each moment that changed, $strobe what is then']],
  ['17.2', 'files', ['events', 'files: written, read line by line, scanned, and nothing outside']],
  [
    '17.2.9',
    'memories from files',
    ['language', 'are filled from a file of the project, with addresses and comments in it'],
  ],
  ['17.3', 'time scale', ['events', 'time: scales, rounding, $realtime, $timeformat']],
  ['17.4', 'the end of a run', ['events', 'how it ends']],
  ['17.7', 'time functions', ['events', 'time: scales, rounding, $realtime, $timeformat']],
  ['17.9', 'random numbers', ['events', '$random is the algorithm of the standard']],
  ['17.10', 'plusargs', ['events', 'plusargs, and texts put together']],
  ['19.3', 'macros', ['language', 'macros of macros, undef, elsif, nested conditions']],
  ['19.5', 'include', ['storeys', 'a file is found beside the one that names it']],
  ['19.2', 'default_nettype', ['types', 'default_nettype none refuses it']],
];

const texts = new Map(Object.entries(FILES).map(([key, path]) => [key, readFileSync(path, 'utf8')]));

const BY_NAME = CLAUSES.map(([clause, about, ...shown]) => ({ name: `${clause} ${about}`, shown }));

test.each(BY_NAME)('$name', ({ shown }) => {
  for (const [file, title] of shown) {
    const text = texts.get(file) ?? '';
    expect(text, `${FILES[file]} has a test of that name`).toContain(title);
  }
});

test('every clause that a design or a testbench is written by is there once', () => {
  const clauses = CLAUSES.map(([clause]) => clause);
  expect(new Set(clauses).size).toBe(clauses.length);
  for (let clause = 3; clause <= 17; clause++)
    expect(
      clauses.some((one) => one.split('.')[0] === String(clause)),
      `clause ${clause}`,
    ).toBe(true);
});
