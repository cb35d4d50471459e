// @vitest-environment happy-dom
import { screen, within } from '@testing-library/react';
import { describe, expect, test, vi } from 'vitest';
import type { HierarchyNode } from '../../core/hdl/index.ts';
import type { Explanation } from '../../core/replay/index.ts';
import { fail, ok, problem } from '../../core/result.ts';
import { wholeRow } from '../../core/wave/index.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import type { OpenRecord, Waves } from '../wave/index.ts';
import { Instances } from './instances.tsx';
import { KnownPanel } from './known-panel.tsx';
import { SignalList } from './signal-list.tsx';
import { SimulationPanel } from './simulation-panel.tsx';
import { WhyPanel } from './why-panel.tsx';

type Ask = (call: string, ask: never) => unknown;

const FACTS = {
  ...{
    stored: 10,
    seen: 40,
    samples: 100,
    clock: 'd.clk',
    missing: [],
    simulation: null,
    readings: [],
    isReadBehind: false,
  },
  unknown: [
    { signal: 'd.u.q', samples: 100, why: null },
    { signal: 'd.u.r', samples: 3, why: null },
  ],
  unmatched: { misfits: [], names: ['tb.extra'] },
  disagreements: [
    { signal: 'd.u.m', sample: 7, tick: 7, recorded: '0', computed: '1', samples: 2, means: 'crossing' as const },
  ],
};

const record = (ask: Ask, replay: object = FACTS) =>
  ({
    desk: { ask: async (call: string, given: never) => ask(call, given) },
    opened: {
      axis: { triggers: [], gaps: [], tickSeconds: 1e-6, length: 100, sampled: true, title: 'r', stored: null },
      signals: ['d.u.q', 'd.u.m', 'd.a'].map((name) => ({
        ...{ name, width: 1, signed: false, domain: '' },
        ...(name === 'd.u.m' ? { names: { SHUT: '0', OPEN: '1' } } : {}),
      })),
      ...{ oddities: [], notes: [], replay },
    },
  }) as unknown as OpenRecord;

function waves(chosen: string | null, tick = 5) {
  const rows = ['d.u.q', 'd.u.m'].map((name) => wholeRow({ name, width: 1 }, name));
  const axis = { triggers: [], gaps: [], tickSeconds: 1e-6, length: 100, sampled: true, title: 'r', stored: null };
  const made = {
    ...{ axis, tick, go: vi.fn(), setChosen: vi.fn(), setRows: vi.fn() },
    view: { rows, cursors: [], notes: [], rules: [] },
    chosen: new Set(chosen === null ? [] : [chosen]),
  };
  return made as typeof made & Waves;
}

describe('why', () => {
  const explained: Explanation = {
    ...{ signal: 'd.u.q', tick: 5, since: 3, value: '1', how: 'edge', at: { file: 'rtl/d.v', line: 9 } },
    causes: [{ signal: 'd.a', tick: 2, value: '0', role: 'chose', file: 'rtl/d.v', line: 2 }],
  };

  test('tells of the chosen row at the cursor what decided it, and a step back goes there', async () => {
    const asked: unknown[] = [];
    const w = waves('d.u.q');
    const ask: Ask = (call, given) => {
      asked.push([call, given]);
      const { signal } = given as { signal: string };
      return signal === 'd.a'
        ? { ...explained, signal: 'd.a', tick: 2, since: 2, how: 'edge-of-design', causes: [] }
        : explained;
    };
    const { user } = await renderPage(<WhyPanel record={record(ask)} waves={w} />);
    const list = await screen.findByRole('list', { name: 'Why' });
    expect(list.textContent).toContain('at 5 µs, since 3 µs');
    expect(within(list).getByText('rtl/d.v, line 9')).toBeTruthy();
    await user.click(within(list).getByRole('button', { name: /because\s*a\s*0/ }));
    expect(await within(list).findByText(/comes from outside/)).toBeTruthy();
    expect(w.go).toHaveBeenCalledWith(2);
    // Its row was not shown yet.
    expect(w.setRows.mock.calls[0]?.[0]).toHaveLength(3);
    expect(asked).toEqual([
      ['why', { signal: 'd.u.q', tick: 5 }],
      ['why', { signal: 'd.a', tick: 2 }],
    ]);
  });

  test('values that the source has names for are called by them, but not where a bit is unknown', async () => {
    const causes = ['1', 'x'].map((value, i) => ({
      ...{ signal: 'd.u.m', tick: i, value, role: 'gave' as const, file: 'rtl/d.v', line: 2 },
    }));
    const ask: Ask = () => ({ ...explained, causes });
    await renderPage(<WhyPanel record={record(ask)} waves={waves('d.u.q')} />);
    const list = await screen.findByRole('list', { name: 'Why' });
    expect(within(list).getByText('OPEN').title).toBe('1 bit: 1');
    expect(within(list).getByText('x')).toBeTruthy();
    expect(within(list).queryByText('SHUT')).toBeNull();
  });

  test('without a chosen row it says what to do', async () => {
    await renderPage(<WhyPanel record={record(() => null)} waves={waves(null)} />);
    expect(screen.getByText(/Choose a row and put the cursor on a value/)).toBeTruthy();
  });
});

describe('what is known', () => {
  test('counts what was seen for one bit, leads to each disagreement, and names what stays unknown', async () => {
    const w = waves(null);
    const { user } = await renderPage(<KnownPanel record={record(() => null)} waves={w} />);
    expect(screen.getByText('40 bits, 4.0 for one')).toBeTruthy();
    expect(screen.getByText(/was/, { selector: 'p' }).textContent).toBe(
      '7 µs: u.m was 0, the design makes it 1; in 2 samples.',
    );
    expect(screen.getByText(/Signals of another clock feed it/)).toBeTruthy();
    expect(screen.queryByText('Read once')).toBeNull();
    expect(screen.getByText('in no sample')).toBeTruthy();
    expect(screen.getByText('not in 3 samples')).toBeTruthy();
    expect(screen.getByText('Not in the design: tb.extra.')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: '7 µs' }));
    expect(w.go).toHaveBeenCalledWith(7);
  });

  test('says what was read besides, and in which sample', async () => {
    const readings = [
      { sample: 67, how: 'trigger', bits: 39 },
      { sample: 0, how: 'standing', bits: 1 },
    ];
    const facts = { ...FACTS, readings, isReadBehind: true };
    await renderPage(<KnownPanel record={record(() => null, facts)} waves={waves(null)} />);
    expect(screen.getByText(/is of a sample behind the end of this record/)).toBeTruthy();
    expect(
      screen.getByText('39 bits behind the trigger, in sample 67, 1 bit while the design stood, in sample 0'),
    ).toBeTruthy();
  });
});

describe('into simulation', () => {
  test('the testbench is made and handed on to run; what cannot be made says why', async () => {
    const runs: unknown[] = [];
    let isGood = true;
    const ask: Ask = (_call, given) =>
      isGood
        ? ok({ name: 'replay_u', files: [{ name: 'a.v', text: '' }], given })
        : fail(problem('no-instance', 'It is none.'));
    const { user } = await renderPage(
      <SimulationPanel
        record={record(ask)}
        waves={waves(null)}
        see={['d.u', 'd.w']}
        onRun={(...all) => void runs.push(all)}
      />,
    );
    await user.selectOptions(screen.getByLabelText('Instance to simulate'), 'd.w');
    await user.click(screen.getByRole('button', { name: 'Run it in simulation' }));
    await vi.waitFor(() => expect(runs).toEqual([['d.w', 'replay_u', [{ name: 'a.v', text: '' }]]]));
    isGood = false;
    await user.click(screen.getByRole('button', { name: 'Testbench as zip' }));
    expect(await screen.findByText('It is none.')).toBeTruthy();
  });

  test('what only the hardware does is named, with where', async () => {
    const w = waves(null);
    const simulation = {
      ...{ instance: 'd.u', finished: false, printed: 'sample 4: q is 0, the hardware had 1' },
      differences: [{ signal: 'd.u.q', sample: 4, tick: 4, samples: 9 }],
    };
    const { user } = await renderPage(
      <SimulationPanel
        record={record(() => null, { ...FACTS, simulation })}
        waves={w}
        see={['d.u']}
        onRun={() => {}}
      />,
    );
    const found = screen.getByTestId('simulation');
    expect(found.textContent).toContain('What only the hardware does:');
    expect(found.textContent).toContain('u.q, in 9 samples');
    await user.click(within(found).getByRole('button', { name: '4 µs' }));
    expect(w.go).toHaveBeenCalledWith(4);
  });
});

const leaf = (path: string, children: readonly HierarchyNode[] = []): HierarchyNode => ({
  ...{ path, name: path.split('.').at(-1) ?? '', module: `m_${path.length}`, file: 'd.v', line: 1, children },
});

describe('what is to be seen', () => {
  test('an instance stands for all within it', async () => {
    let see: readonly string[] = ['d.u.v'];
    const shown = () => (
      <Instances
        hierarchy={leaf('d', [leaf('d.u', [leaf('d.u.v')]), leaf('d.w')])}
        see={see}
        onSee={(next) => {
          see = next;
        }}
      />
    );
    const { user } = await renderPage(shown());
    expect(screen.getByRole('checkbox', { name: 'v' })).toHaveProperty('checked', true);
    await user.click(screen.getByRole('checkbox', { name: 'u' }));
    expect(see).toEqual(['d.u']);
    await user.type(screen.getByLabelText('Find an instance'), 'nowhere');
    expect(await screen.findByText('No instance is called so.')).toBeTruthy();
  });

  test('signals are taken by their names, or as parts; what is none is not taken', async () => {
    const chosen: (readonly string[])[] = [];
    const signal = { name: 'd.u.count', width: 4 } as never;
    const { user } = await renderPage(
      <SignalList
        title="Never record"
        signals={[signal]}
        chosen={['d.a']}
        onChosen={(next) => void chosen.push(next)}
      />,
    );
    const field = screen.getByLabelText('Never record: a signal');
    for (const typed of ['nobody', 'u.count[[7:5]', 'u.count[[3:2]', 'u.count']) {
      await user.clear(field);
      await user.type(field, `${typed}{Enter}`);
    }
    expect(chosen).toEqual([
      ['d.a', 'd.u.count[3:2]'],
      ['d.a', 'd.u.count'],
    ]);
    await user.click(screen.getByRole('button', { name: 'Leave out d.a' }));
    expect(chosen.at(-1)).toEqual([]);
  });
});
