import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  type BitMeasures,
  digitsOf,
  findAll,
  indexAt,
  measure,
  placeOfReal,
  plainView,
  realText,
  realTick,
  ticksBetween,
  timeAt,
  type Trace,
  VcdReader,
  type WordMeasures,
} from './index.ts';

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
    expect(facts).toMatchObject({
      valid: true,
      timescale: '10ns',
      names: ['top.clk', 'top.data', 'top.inner.bit[3]'],
      widths: [1, 8, 1],
      endTime: '12',
      problems: [],
    });
    expect(recording).toMatchObject({ tickSeconds: 1e-8, length: 12 });
    expect([0, 4, 5, 9].map((tick) => valueIn(recording, 'top.clk', tick))).toEqual(['0', '0', '1', '0']);
  });

  // IEEE 1364-2005, clause 18.2.2: a value shorter than its signal is extended to the left, with 0 after 0 or 1, else
  // with x or z.
  test('extends short values to the left as the standard says', () => {
    const { recording } = read(HEAD + body);
    expect([0, 5, 7, 9].map((tick) => valueIn(recording, 'top.data', tick))).toEqual([
      'xxxxxxxx',
      '00000101',
      'zzzzzz01',
      '11111111',
    ]);
  });

  test('two names of one identifier code are one signal', () => {
    const { recording } = read(
      `${HEAD.replace('$upscope $end\n$upscope', '$var wire 1 ! copy $end\n$upscope $end\n$upscope')}#3\n1!\n#4\n`,
    );
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

  test('strange keywords and texts are passed over with a note', () => {
    const { facts } = read(
      `${HEAD.replace('$enddefinitions', '$var string 1 & word $end $attr x $end $enddefinitions')}#0\n0!\nshello &\n`,
    );
    expect(facts.valid).toBe(true);
    expect(facts.problems.map(({ code }) => code)).toEqual(['vcd-text', 'vcd-keyword']);
  });

  test('a value of a hundred thousand digits that is none is refused, in pieces of any size', () => {
    const reader = new VcdReader();
    const bytes = new TextEncoder().encode(
      `${HEAD.replace('$enddefinitions', '$var real 64 % volts $end $enddefinitions')}#0\nr${'1'.repeat(100_000)}- %\n`,
    );
    for (let at = 0; at < bytes.length; at += 7) reader.push(bytes.subarray(at, at + 7));
    expect(reader.finish().problems.map(({ code }) => code)).toContain('vcd-syntax');
  });

  describe('real variables (IEEE 1364-2005, clause 18.2.2: %.16g)', () => {
    const HEADED = HEAD.replace('$enddefinitions', '$var real 64 % volts $end $enddefinitions');

    test('are read exactly, whatever number they are, measured and searched', () => {
      fc.assert(
        fc.property(
          fc.array(fc.double({ noNaN: true, noDefaultInfinity: true }), { minLength: 1, maxLength: 20 }),
          (values) => {
            const { facts, recording } = read(
              `${HEADED}${values.map((value, i) => `#${i * 10}\nr${value} %\n`).join('')}#${values.length * 10}\n`,
              7,
            );
            expect(facts).toMatchObject({ valid: true, problems: [] });
            const trace = recording.traces.find(({ name }) => name === 'volts') as Trace;
            expect(values.map((_, i) => realText(trace, indexAt(trace, i * 10 + 5)))).toEqual(values.map(String));
            const measured = measure(recording, trace, 0, recording.length) as WordMeasures;
            // Written as it is: Math.min would tell 0 from -0, which are one value here.
            expect([Number(measured.least) + 0, Number(measured.most) + 0]).toEqual([
              Math.min(...values) + 0,
              Math.max(...values) + 0,
            ]);
            const limit = values[0] as number;
            const found = /^-?\d+(\.\d+)?$/.test(String(limit)) ? findAll(recording, `volts > ${limit}`) : null;
            if (found?.ok)
              for (const [i, value] of values.entries())
                expect(found.value.stretches.some(({ from, to }) => from <= i * 10 && i * 10 < to)).toBe(value > limit);
          },
        ),
      );
    });

    test('stand as curves, with their mean over time', () => {
      const { recording } = read(`${HEADED}#0\nr1.5 %\n#10\nr-2.25e1 %\n#20\n`);
      const row = plainView(recording, recording.traces).rows.find(
        (one) => one.kind === 'signal' && one.parts[0]?.signal === 'volts',
      );
      expect(row).toMatchObject({ style: 'analog' });
      expect(measure(recording, recording.traces.at(-1) as Trace, 0, 20)).toMatchObject({
        least: -22.5,
        most: 1.5,
        mean: '-10.5',
      });
    });

    test('do not mix with bits, and what is no number is refused in its line', () => {
      for (const [text, line] of [
        ['r1.5 !', 14],
        ['b10 %', 14],
        ['1%', 14],
        ['rfour %', 14],
      ] as const)
        expect(read(`${HEADED}#0\n${text}\n`).facts.problems[0]).toMatchObject({
          code: 'vcd-syntax',
          line,
          severity: 'error',
        });
    });
  });

  describe('times beyond 2^53 units', () => {
    const far = fc
      .uniqueArray(fc.bigInt({ min: 0n, max: 1n << 64n }), { minLength: 2, maxLength: 20 })
      .chain((some) =>
        fc.tuple(fc.constant(some), fc.array(fc.integer({ min: 1, max: 3 }), { minLength: 4, maxLength: 4 })),
      );

    test('are exact: every change is found at its own time and not one unit earlier', () => {
      fc.assert(
        fc.property(far, ([some, near]) => {
          // Some far apart, some next to each other.
          const times = [...new Set(some.flatMap((time) => [time, ...near.map((by) => time + BigInt(by))]))].sort(
            (a, b) => (a < b ? -1 : 1),
          );
          const { facts, recording } = read(`${HEAD}${times.map((time, i) => `#${time}\n${i % 2}!\n`).join('')}`, 11);
          expect(facts).toMatchObject({ valid: true, problems: [], endTime: String(times.at(-1)) });
          const trace = recording.traces.find(({ name }) => name === 'top.clk') as Trace;
          expect(Array.from(trace.at, (tick) => realTick(recording, tick))).toEqual(times);
          for (const [i, time] of times.entries()) {
            expect(digitsOf(trace, indexAt(trace, placeOfReal(recording, time)))).toBe(String(i % 2));
            if (i > 0)
              expect(digitsOf(trace, indexAt(trace, placeOfReal(recording, time - 1n)))).toBe(String((i - 1) % 2));
          }
          const exact = times.map((time) => time - (times[0] as bigint)).map(Number);
          for (const [i, tick] of trace.at.entries())
            expect(ticksBetween(recording, trace.at[0] as number, tick)).toBe(exact[i]);
        }),
      );
    });

    test('are as far from each other as they say, however late both are', () => {
      const [early, late] = [1146537560472076987n, 1150300538427696792n];
      const { recording } = read(`${HEAD}#0\n0!\n#${early}\n1!\n#${late}\n0!\n`, 11);
      const [, from, to] = (recording.traces.find(({ name }) => name === 'top.clk') as Trace).at;
      expect(ticksBetween(recording, from as number, to as number)).toBe(Number(late - early));
      expect(ticksBetween(recording, to as number, from as number)).toBe(Number(early - late));
    });

    test('have their own label each, to the last unit', () => {
      const { recording } = read(
        `${HEAD.replace('10 ns', '1 fs')}#0\n0!\n#9007199254740993\n1!\n#9007199254740995\n0!\n`,
      );
      const trace = recording.traces[0] as Trace;
      expect(Array.from(trace.at, (tick) => timeAt(recording, tick))).toEqual([
        '0 s',
        '9.007199254740993 s',
        '9.007199254740995 s',
      ]);
      const pulse = measure(
        { ...recording, length: recording.length + 1 },
        trace,
        0,
        recording.length + 1,
      ) as BitMeasures;
      expect(pulse.high?.mean).toBeCloseTo(2e-15, 20);
    });

    test('back in time is told there too', () => {
      expect(read(`${HEAD}#36893488147419103231\n1!\n#36893488147419103230\n0!\n`).facts.problems[0]).toMatchObject({
        code: 'vcd-time-back',
        line: 15,
      });
    });
  });

  test('keeps as many changes as it may, checks the rest, and says that it was cut', () => {
    const reader = new VcdReader({ mostChanges: 3 });
    reader.push(
      new TextEncoder().encode(`${HEAD}${Array.from({ length: 10 }, (_, i) => `#${i}\n${i % 2}!\n`).join('')}`),
    );
    expect(reader.finish()).toMatchObject({ valid: true, cut: true, endTime: '9' });
    expect(reader.recording('x').traces[0]?.at.length).toBe(3);
  });
});
