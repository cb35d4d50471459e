// Values that are added word by word, against the same ones added whole.
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { digitsOf, type Trace, TraceWriter } from './trace.ts';

const shown = (trace: Trace): string[] => Array.from(trace.at, (tick, i) => `${tick} ${digitsOf(trace, i)}`);

test('word by word a trace is what it is with whole values', () =>
  fc.assert(
    fc.property(
      fc.constantFrom(1, 20, 32, 33, 70),
      fc.array(fc.record({ apart: fc.nat(2), place: fc.nat(2), word: fc.nat(0xffff), isOpen: fc.boolean() }), {
        maxLength: 60,
      }),
      (width, changes) => {
        const words = Math.ceil(width / 32);
        const last = width % 32 === 0 ? 0xffffffff : 2 ** (width % 32) - 1;
        const [byWord, whole] = [new TraceWriter(width), new TraceWriter(width)];
        const [value, open] = [new Uint32Array(words), new Uint32Array(words)];
        byWord.add(0, value, null);
        whole.add(0, value, null);
        let tick = 0;
        for (const { apart, place, word, isOpen } of changes) {
          tick += apart;
          const at = place % words;
          const cut = (word & (at === words - 1 ? last : 0xffffffff)) >>> 0;
          const of = isOpen ? open : value;
          // A word like the one before is no change, and nobody tells of it.
          if (of[at] === cut) continue;
          of[at] = cut;
          if (isOpen) byWord.addUnknownWord(tick, at, cut);
          else byWord.addWord(tick, at, cut);
          whole.add(tick, value, open);
        }
        const about = { name: 't', width, signed: false, domain: '' };
        const [a, b] = [byWord.finish(about), whole.finish(about)];
        // Of several changes at one place that end where they began the whole one keeps nothing.
        expect(shown(a).filter((text, i, all) => text.split(' ')[1] !== all[i - 1]?.split(' ')[1])).toEqual(shown(b));
      },
    ),
  ));
