import { describe, expect, test } from 'vitest';
import { digitsOf, indexAt, VcdReader } from './index.ts';

const HEAD = `$date today $end $version some writer $end
$comment a comment
  over two lines $end
$timescale 10 ns $end
$scope module top $end
$var wire 1 ! clk $end
$var reg 8 " data [7:0] $end
$scope begin inner $end
$var wire 1 # bit [3] $end
$upscope $end
$upscope $end
$enddefinitions $end
`;

function read(text: string, piece = 1000) {
  const reader = new VcdReader();
  const bytes = new TextEncoder().encode(text);
  for (let at = 0; at < bytes.length; at += piece) reader.push(bytes.subarray(at, at + piece));
  const facts = reader.finish();
  return { facts, recording: reader.recording('file') };
}

const valueIn = (recording: ReturnType<typeof read>['recording'], name: string, tick: number) => {
  const trace = recording.traces.find((one) => one.name === name);
  return trace ? digitsOf(trace, indexAt(trace, tick)) : null;
};

describe('a value change dump', () => {
  const body = '#0\n$dumpvars\n0!\nbx "\nz#\n$end\n#5\n1!\nb101 "\n#7\nbz01 "\n1#\n#9\n0!\nb11111111 "\n#12\n';

  test.each([1, 3, 1000])('is read in pieces of %i bytes', (piece) => {
    const { facts, recording } = read(HEAD + body, piece);
    expect(facts).toMatchObject({ valid: true, timescale: '10ns', names: ['top.clk', 'top.data', 'top.inner.bit[3]'], widths: [1, 8, 1], endTime: '12', problems: [] });
    expect(recording).toMatchObject({ tickSeconds: 1e-8, length: 12 });
    expect([0, 4, 5, 9].map((tick) => valueIn(recording, 'top.clk', tick))).toEqual(['0', '0', '1', '0']);
  });

  // IEEE 1364-2005, clause 18.2.2: a value shorter than its signal is extended to the left, with 0 after 0 or 1, else with x or z.
  test('extends short values to the left as the standard says', () => {
    const { recording } = read(HEAD + body);
    expect([0, 5, 7, 9].map((tick) => valueIn(recording, 'top.data', tick))).toEqual(['xxxxxxxx', '00000101', 'zzzzzz01', '11111111']);
  });

  test('two names of one identifier code are one signal', () => {
    const { recording } = read(`${HEAD.replace('$upscope $end\n$upscope', '$var wire 1 ! copy $end\n$upscope $end\n$upscope')}#3\n1!\n#4\n`);
    expect(valueIn(recording, 'top.inner.copy', 3)).toBe('1');
  });

  test.each([
    ['nothing of a dump', 'hello world\n', 'vcd-syntax', 1],
    ['a header without an end', HEAD.replace('$enddefinitions $end\n', ''), 'vcd-header', 12],
    ['an unknown identifier code', `${HEAD}#0\n1?\n`, 'vcd-unknown-code', 14],
    ['time that goes back', `${HEAD}#9\n#4\n`, 'vcd-time-back', 14],
    ['a value too wide', `${HEAD}#0\nb101010101 "\n`, 'vcd-width', 14],
    ['other digits', `${HEAD}#0\nb10q "\n`, 'vcd-syntax', 14],
    ['a file that ends in a value', `${HEAD}#0\nb101`, 'vcd-truncated', 14],
    ['a file that ends in a keyword', `${HEAD}$comment never`, 'vcd-truncated', 13],
    ['a wrong timescale', HEAD.replace('10 ns', '3 parsec'), 'vcd-timescale', 4],
  ])('says where %s is', (_, text, code, line) => {
    const { facts } = read(text);
    expect(facts.valid).toBe(false);
    expect(facts.problems.find((problem) => problem.code === code)).toMatchObject({ line });
  });

  test('real numbers and strange keywords are passed over with a note', () => {
    const { facts } = read(`${HEAD.replace('$enddefinitions', '$var real 64 % volts $end $attr x $end $enddefinitions')}#0\nr1.5 %\n1!\n`);
    expect(facts.valid).toBe(true);
    expect(facts.problems.map(({ code }) => code)).toEqual(['vcd-real', 'vcd-keyword']);
  });

  test('texts are passed over, and times that no number holds are rounded, with a note', () => {
    const { facts, recording } = read(`${HEAD.replace('$enddefinitions', '$var string 1 & word $end $enddefinitions')}#0\n0!\nshello &\n#36893488147419103231\n1!\n#36893488147419103232\n`);
    expect(facts).toMatchObject({ valid: true, endTime: '36893488147419103232' });
    expect(facts.problems.map(({ code, line }) => [code, line])).toEqual([['vcd-real', 12], ['vcd-time-rounded', 16]]);
    expect(valueIn(recording, 'top.clk', 2 ** 65)).toBe('1');
  });

  test('keeps as many changes as it may, checks the rest, and says that it was cut', () => {
    const reader = new VcdReader({ mostChanges: 3 });
    reader.push(new TextEncoder().encode(`${HEAD}${Array.from({ length: 10 }, (_, i) => `#${i}\n${i % 2}!\n`).join('')}`));
    expect(reader.finish()).toMatchObject({ valid: true, cut: true, endTime: '9' });
    expect(reader.recording('x').traces[0]?.at.length).toBe(3);
  });
});
