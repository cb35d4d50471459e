// SVF played on simulated TAPs. Semantics: Serial Vector Format specification, revision E (values from memory).
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { builtDemo } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { playSvf as playByTestReader, readSvf } from '../tests/support/svf-reader.ts';
import type { Cable, CableOp } from '../core/jtag/index.ts';
import { FLASH_PARTS } from '../core/flash/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { keepAsSvf, loadAsSvf, playSvf } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { type SvfCommand, SvfReader } from '../core/svf/index.ts';
import { Chain } from './chain.ts';
import { ShiftRegister, TapDevice } from './tap.ts';

const encode = (text: string) => new TextEncoder().encode(text);

/** A device with an 8-bit register behind opcode 5 that remembers what was written and gives it back. */
class Scratch extends TapDevice {
  value = 0xa5;
  readonly #register = new ShiftRegister(
    8,
    () => Uint8Array.of(this.value),
    (bits) => {
      this.value = bits[0] as number;
    },
  );
  protected override registerOf(opcode: number) {
    return opcode === 5 ? this.#register : null;
  }
  protected override get idcodeOpcode(): number {
    return 2;
  }
}

function one(...devices: TapDevice[]) {
  const scratch = new Scratch(4, 0x12345fff);
  const chain = new Chain(devices.length === 0 ? [scratch] : devices, {
    powered: () => true,
    pass: () => {},
    wait: () => {},
  });
  chain.powerUp();
  const seen: CableOp[] = [];
  let hz = 1e6;
  const cable: Cable = {
    run: async (ops) => {
      seen.push(...ops);
      return ops.flatMap((op) => chain.run(op) ?? []);
    },
    state: async () => ({ attached: true, referenceVolts: 3.3, tckHz: hz, leastHz: 1e3, mostHz: 1e7 }),
    setFrequency: async (wanted) => {
      hz = wanted;
      return hz;
    },
    tckHz: 1e6,
  };
  const play = (text: string, options: Parameters<typeof playSvf>[3] = {}) =>
    playSvf(cable, [encode(text)], unwatched, options);
  return { scratch, chain, cable, seen, play, hz: () => hz };
}

const commands = (text: string): SvfCommand[] => {
  const reader = new SvfReader();
  const found = reader.push(encode(text));
  reader.end();
  if (reader.trouble) throw new Error(`${reader.trouble.code}@${reader.trouble.line}`);
  return found;
};
const trouble = (text: string): string => {
  try {
    commands(text);
    return 'none';
  } catch (error) {
    return (error as Error).message;
  }
};

describe('reading', () => {
  test('both comment forms, any case, hexadecimal digits over many lines, lines counted', () => {
    const text =
      '! one\n// two\nsir 4 tdi (5); SDR 12 TDI (1\n 2 // inside\n 3) ! and here\n TDO (FFF)\n MASK(0f0);\nTRST ' +
      'ABSENT;';
    const [sir, sdr, trst] = commands(text);
    expect(sir).toMatchObject({ kind: 'scan', name: 'SIR', length: 4, line: 3 });
    expect(sdr).toMatchObject({
      name: 'SDR',
      length: 12,
      line: 3,
      tdi: { bytes: Uint8Array.of(0x23, 0x01) },
      mask: { bytes: Uint8Array.of(0xf0, 0) },
    });
    expect(trst).toMatchObject({ kind: 'trst', mode: 'ABSENT', line: 8 });
  });

  test('all forms of RUNTEST', () => {
    const forms = commands(
      'RUNTEST 10 TCK; RUNTEST IDLE 5 SCK 1E-3 SEC; RUNTEST 2.5E-1 SEC MAXIMUM 1 SEC ENDSTATE DRPAUSE; RUNTEST ' +
        'DRPAUSE 3 TCK ENDSTATE IDLE; RUNTEST ENDSTATE IRPAUSE;',
    );
    expect(
      forms.map(
        (form) =>
          form.kind === 'runtest' && [form.runState, form.count, form.clock, form.least, form.most, form.endState],
      ),
    ).toEqual([
      [null, 10, 'TCK', 0, null, null],
      ['Run-Test/Idle', 5, 'SCK', 0.001, null, null],
      [null, 0, 'TCK', 0.25, 1, 'Pause-DR'],
      ['Pause-DR', 3, 'TCK', 0, null, 'Run-Test/Idle'],
      [null, 0, 'TCK', 0, null, 'Pause-IR'],
    ]);
  });

  test('gives the same commands however the bytes are cut', () => {
    const text =
      'HDR 3 TDI (5);\n// x\nSIR 8 TDI (9F) TDO (01) MASK (03) SMASK (FF);\nSTATE DRPAUSE DREXIT2 DRUPDATE ' +
      'IDLE;\nFREQUENCY 1.5E6 HZ;\nFREQUENCY;\nENDDR DRPAUSE;\nRUNTEST 100 TCK;';
    const whole = commands(text);
    fc.assert(
      fc.property(fc.array(fc.nat(text.length), { maxLength: 30 }), (cuts) => {
        const reader = new SvfReader();
        const places = [0, ...cuts.sort((a, b) => a - b), text.length];
        const found = places.slice(1).flatMap((to, i) => reader.push(encode(text.slice(places[i], to))));
        reader.end();
        expect(reader.trouble).toBeNull();
        expect(found).toEqual(whole);
      }),
    );
  });

  test.each([
    ['PIO (HLHL);', 'svf-pio@1'],
    ['TRST ON;\nPIOMAP (IN A OUT B);', 'svf-pio@2'],
    ['WAIT 3;', 'svf-command@1'],
    ['SDR 8 TDI (1FF);', 'svf-digits@1'],
    ['SDR 8 TDI (G1);', 'svf-digit@1'],
    ['\nSDR eight TDI (1);', 'svf-syntax@2'],
    ['SDR 8 TDI (11) TDI (12);', 'svf-syntax@1'],
    ['SIR 0;', 'svf-length@1'],
    ['ENDDR DRSHIFT;', 'svf-state@1'],
    ['STATE DRPAUSE DREXIT2;', 'svf-state@1'],
    ['STATE NOWHERE IDLE;', 'svf-state@1'],
    ['FREQUENCY -1 HZ;', 'svf-frequency@1'],
    ['STATE IDLE;\nFREQUENCY 1E6;', 'svf-syntax@2'],
    ['TRST ABSENT;\nSIR 4 TDI (5);\nTRST ON;', 'svf-trst@3'],
    ['TRST OFF;\nTRST ABSENT;\nTRST ABSENT;', 'svf-trst@3'],
    ['RUNTEST IDLE;\nRUNTEST ;', 'svf-runtest@2'],
    ['RUNTEST 1 SEC MAXIMUM 0.5 SEC;', 'svf-runtest@1'],
    ['SDR 8 TDI (1', 'svf-cut@1'],
    ['TRST ON;\n\nSTATE IDLE', 'svf-cut@3'],
    ['SDR 8 / TDI (1);', 'svf-syntax@1'],
    ['PK\u0003\u0004', 'svf-syntax@1'],
  ])('%s is refused by name and line', (text, code) => expect(trouble(text)).toBe(code));

  test('no damage makes it throw', () => {
    const text = 'HIR 2 TDI (3);SIR 4 TDI (5) TDO (1) MASK (3);RUNTEST 3 TCK 1E-3 SEC;STATE RESET IDLE;';
    fc.assert(
      fc.property(fc.nat(text.length), fc.nat(12), fc.string({ maxLength: 8 }), (at, cut, put) => {
        const reader = new SvfReader();
        reader.push(encode(text.slice(0, at) + put + text.slice(at + cut)));
        reader.end();
        expect(reader.trouble === null || reader.trouble.line >= 1).toBe(true);
      }),
      { numRuns: 400 },
    );
  });
});

describe('playing', () => {
  const SELECT = 'SIR 4 TDI (5);\n';

  test('TDI is remembered, TDO is not, MASK is until the length changes', async () => {
    const { play, scratch } = one();
    expect(await play(`${SELECT}SDR 8 TDI (3C) TDO (A5);\nSDR 8;\nSDR 8 TDO (3C);`)).toMatchObject({
      ok: true,
      commands: 4,
    });
    expect(scratch.value).toBe(0x3c);
    expect(await play(`${SELECT}SDR 8 TDI (00) TDO (00) MASK (C3);`)).toMatchObject({ ok: true });
    // The mask of the first holds for the second, whose expected bits are wrong outside it alone.
    expect(await play(`${SELECT}SDR 8 TDI (00) TDO (00) MASK (C3);\nSDR 8 TDO (3C);`)).toMatchObject({ ok: true });
    // A new length: all bits count again.
    expect(await play(`${SELECT}SDR 8 TDI (00) MASK (00);\nSDR 9 TDI (000) TDO (1FF);`)).toMatchObject({
      ok: false,
      line: 3,
    });
    expect(await play(`${SELECT}SDR 8 TDI (1);\nSDR 9;`)).toMatchObject({
      ok: false,
      line: 3,
      problem: { code: 'svf-no-tdi' },
    });
  });

  test('a difference names line, bits, expected, actual and mask, and nothing follows it', async () => {
    const { play, scratch } = one();
    const played = await play(`${SELECT}\nSDR 8 TDI (11)\n TDO (A4) MASK (0F);\nSDR 8 TDI (77);`);
    expect(played).toMatchObject({
      ok: false,
      line: 3,
      mismatches: [{ line: 3, name: 'SDR', length: 8, bits: [0], expected: 'A4', actual: 'A5', mask: '0F' }],
    });
    expect(scratch.value).toBe(0x11);
  });

  test('goes on after a difference when told to', async () => {
    const { play, scratch } = one();
    const played = await play(`${SELECT}SDR 8 TDI (11) TDO (00);\nSDR 8 TDI (77) TDO (FF);`, { goOn: true });
    expect(played.mismatches.map((m) => m.line)).toEqual([2, 3]);
    expect(scratch.value).toBe(0x77);
  });

  test('headers and trailers reach past devices around; offsets do the same for a file that knows none', async () => {
    const make = () => {
      const target = new Scratch(4, 0x1234_5fff);
      return { target, ...one(new TapDevice(3, null), target, new TapDevice(5, null)) };
    };
    const padded = make();
    expect(
      await padded.play(
        'HIR 3 TDI (7); TIR 5 TDI (1F); HDR 1 TDI (0) TDO (0); TDR 1 TDI (0);\nSIR 4 TDI (5) TDO (1) MASK ' +
          '(3);\nSDR 8 TDI (5A) TDO (A5);\nSDR 8 TDO (5A);',
      ),
    ).toMatchObject({ ok: true });
    const offset = make();
    expect(
      await offset.play('SIR 4 TDI (5) TDO (1) MASK (3);\nSDR 8 TDI (5A) TDO (A5);\nSDR 8 TDO (5A);', {
        offsets: { towardsTdo: { irBits: 3, devices: 1 }, towardsTdi: { irBits: 5, devices: 1 } },
      }),
    ).toMatchObject({ ok: true });
    expect([padded.target.value, offset.target.value]).toEqual([0x5a, 0x5a]);
  });

  test('end states, explicit paths, reset and TRST', async () => {
    const { play, chain } = one();
    await play('ENDIR IRPAUSE; ENDDR DRPAUSE;\nSIR 4 TDI (5);');
    expect(chain.state).toBe('Pause-IR');
    await play('ENDDR DRPAUSE;\nSDR 8 TDI (1);');
    expect(chain.state).toBe('Pause-DR');
    await play('STATE IDLE;\nSTATE DRSELECT DRCAPTURE DREXIT1 DRPAUSE;');
    expect(chain.state).toBe('Pause-DR');
    expect(await play('STATE IDLE;\nSTATE DRSELECT DRSHIFT DRPAUSE;')).toMatchObject({
      ok: false,
      line: 2,
      problem: { code: 'svf-path' },
    });
    await play('RUNTEST DRPAUSE 5 TCK ENDSTATE IRPAUSE;');
    expect(chain.state).toBe('Pause-IR');
    await play('STATE RESET;');
    expect(chain.state).toBe('Test-Logic-Reset');
    await play('TRST ON;\nSTATE IDLE;');
    expect(chain.state).toBe('Test-Logic-Reset');
    await play('TRST OFF;\nSTATE IDLE;');
    expect(chain.state).toBe('Run-Test/Idle');
  });

  test('a pause in DRPAUSE keeps one long scan together', async () => {
    const { play, scratch } = one();
    expect(
      await play(`${SELECT}ENDDR DRPAUSE;\nSDR 4 TDI (C) TDO (5);\nENDDR IDLE;\nSDR 4 TDI (3) TDO (A);`),
    ).toMatchObject({ ok: true });
    expect(scratch.value).toBe(0x3c);
  });

  test('RUNTEST clocks at least as often and waits at least as long; FREQUENCY sets TCK and gives it back', async () => {
    const { play, seen, hz } = one();
    const played = await play('FREQUENCY 2E6 HZ;\nRUNTEST 100 TCK 1E-3 SEC;\nRUNTEST 7 SCK;');
    expect(seen.filter((op) => op.kind === 'clock')).toEqual([{ kind: 'clock', count: 100 }]);
    const waits = seen.flatMap((op) => (op.kind === 'wait' ? op.microseconds : []));
    expect(waits[0]).toBeCloseTo(1000 - 50, 6);
    expect(waits[1]).toBeCloseTo(7, 6);
    expect(played.notes[0]).toMatchObject({ line: 3 });
    expect(hz()).toBe(1e6);
  });

  test('a gate is asked before every command', async () => {
    const { play } = one();
    const lines: number[] = [];
    await play(`${SELECT}SDR 8 TDI (1);\nSTATE IDLE;`, { gate: async ({ line }) => void lines.push(line) });
    expect(lines).toEqual([1, 2, 3]);
  });

  test('cancelled, it stops between commands', async () => {
    const { cable } = one();
    let asked = 0;
    const soon = { report: () => {}, cancelled: () => ++asked > 3 };
    expect(await playSvf(cable, [encode('STATE RESET;\nRUNTEST 3600 SEC;\nSTATE IDLE;')], soon)).toMatchObject({
      ok: false,
      line: 3,
      problem: { code: 'cancelled', message: expect.stringMatching(/^Cancelled in what was sent up to line 3/) },
    });
    expect(await playSvf(cable, [encode(SELECT)], { report: () => {}, cancelled: () => true })).toMatchObject({
      ok: false,
      line: 1,
      problem: { code: 'cancelled' },
    });
  });
});

describe('a long file', () => {
  test('is held one command at a time', async () => {
    const { cable } = one();
    const piece = encode('SDR 8 TDI (55);\n'.repeat(2000));
    let held = 0;
    function* pieces() {
      yield encode('SIR 4 TDI (5);\n');
      for (let i = 0; i < 20; i++) {
        held++;
        yield piece;
      }
    }
    expect(await playSvf(cable, pieces(), unwatched)).toMatchObject({ ok: true, commands: 40_001 });
    expect(held).toBe(20);
  });
});

describe('what is exported instead of carried out', () => {
  const { bitstream, fingerprint } = builtDemo();
  const opened = readBitstream(bitstream);
  if (!opened.ok) throw new Error(opened.error.message);
  const place = { irLengths: [6, 6, 5], index: 1 };
  const text = (work: (take: (text: string) => void) => { ok: boolean }) => {
    const parts: string[] = [];
    expect(work((part) => void parts.push(part)).ok).toBe(true);
    return parts.join('');
  };

  test('a load holds the stream bit for bit and has the same effect, played by the product and by the tests’ own reader', async () => {
    const svf = text((take) => loadAsSvf(opened.value, place, take));
    const longest = readSvf(svf).find(
      ({ name, words }) => name === 'SDR' && Number(words[0]) === opened.value.stream.length * 8,
    );
    const sent = [...opened.value.stream].map((byte) =>
      [...Array(8).keys()]
        .reduce((turned, bit) => turned | (((byte >> bit) & 1) << (7 - bit)), 0)
        .toString(16)
        .padStart(2, '0'),
    );
    expect(longest?.vectors.TDI?.toLowerCase() === sent.reverse().join('')).toBe(true);
    for (const play of [
      (cable: Cable) => playSvf(cable, [encode(svf)], unwatched).then((played) => played.ok),
      (cable: Cable) => playByTestReader(svf, cable).then((compared) => compared === 4),
    ]) {
      const { bench, cable } = lockhouse();
      expect(await play(cable)).toBe(true);
      expect(bench.panel().done['1']).toBe(true);
      bench.advance(2_000_000);
      expect(bench.panel(1).lamps.find((lamp) => lamp.name === 'L7')?.hertz).toBeCloseTo(12e6 / 2 ** 23, 3);
    }
    expect(svf).toContain(fingerprint);
  });

  test('a wrong device stops it at its first line of answers', async () => {
    const svf = text((take) => loadAsSvf(opened.value, { irLengths: [6, 6, 5], index: 0 }, take));
    const { bench, cable } = lockhouse();
    const played = await playSvf(cable, [encode(svf)], unwatched);
    expect(played).toMatchObject({ ok: false, mismatches: [{ expected: '1C025FFD', actual: '1C010FFD' }] });
    expect(bench.panel().done).toEqual({ 0: false, 1: false });
  });

  test('a flash image boots after a power-cycle', { timeout: 60_000 }, async () => {
    const flash = FLASH_PARTS[0];
    if (!flash) throw new Error('no flash');
    const svf = text((take) => keepAsSvf(opened.value, flash, place, take));
    const { bench, cable } = lockhouse();
    expect(await playSvf(cable, [encode(svf)], unwatched)).toMatchObject({ ok: true });
    bench.setPower(false);
    bench.setPower(true);
    bench.advance(400_000);
    expect(bench.panel().done['1']).toBe(true);
    const [other] = FLASH_PARTS.slice(1);
    if (other)
      expect(
        await playSvf(cable, [encode(text((take) => keepAsSvf(opened.value, other, place, take)))], unwatched),
      ).toMatchObject({ ok: false, mismatches: [{ name: 'SDR' }] });
  });
});
