// @vitest-environment happy-dom
import { useState } from 'react';
import { describe, expect, test } from 'vitest';
import type { RecorderMap } from '../../core/probes/index.ts';
import { type FormStage, formOf, sentenceOf } from '../../core/trigger/index.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import { ConditionForm, shortName } from './condition-form.tsx';

const signal = (name: string, width: number, names?: Record<string, string>) => ({
  ...{ name, width, lo: 0, signed: false },
  ...(names ? { names } : {}),
});
const RECORDER = {
  ...{ kind: 'recorder', core: 1, name: 'main', clock: 't.clk', depth: 64, width: 14, comparators: 4, stages: 3 },
  ...{ qualifier: false, segments: 1 },
  signals: [signal('t.a.go', 1), signal('t.a.level', 12), signal('t.b.go', 1), signal('t.state', 2, { 0: 'IDLE' })],
} as unknown as RecorderMap;

/** The form with the sentence it stands for; what is picked changes both. */
function Both({ from }: { readonly from: string }) {
  const [stages, setStages] = useState<readonly FormStage[]>(formOf(from) ?? []);
  return (
    <>
      <output>{sentenceOf(stages)}</output>
      <ConditionForm stages={stages} recorder={RECORDER} disabled={false} onStages={setStages} />
    </>
  );
}

async function form(from: string) {
  const page = await renderPage(<Both from={from} />);
  return { ...page, said: () => page.container.querySelector('output')?.textContent };
}

describe('a condition as a form', () => {
  test('a comparison is made field by field, and the sentence follows', async () => {
    const { screen, user, said } = await form('level == 4');
    await user.selectOptions(screen.getByLabelText('Comparison 1.1 relation'), '>');
    expect(said()).toBe('level > 4');
    const value = screen.getByLabelText('Comparison 1.1 value');
    await user.clear(value);
    await user.type(value, '0x2a');
    expect(said()).toBe('level > 0x2a');
    await user.selectOptions(screen.getByLabelText('Comparison 1.1 sense'), 'true');
    expect(said()).toBe('not (level > 0x2a)');
  });

  test('a range has two ends, and gives its lower one back to a plain comparison', async () => {
    const { screen, user, said } = await form('level == 7');
    await user.selectOptions(screen.getByLabelText('Comparison 1.1 relation'), 'in');
    expect(said()).toBe('level in 0..7');
    const end = screen.getByLabelText('Comparison 1.1 end');
    await user.clear(end);
    await user.type(end, '9');
    expect(said()).toBe('level in 0..9');
    await user.selectOptions(screen.getByLabelText('Comparison 1.1 relation'), '==');
    expect(said()).toBe('level == 0');
  });

  test('edges are offered for single bits alone', async () => {
    const { screen, user } = await form('level == 1');
    const relations = () =>
      [...screen.getByLabelText('Comparison 1.1 relation').querySelectorAll('option')].map((one) => one.textContent);
    expect(relations()).not.toContain('rises');
    await user.selectOptions(screen.getByLabelText('Comparison 1.1 signal'), 't.b.go');
    expect(relations()).toContain('rises');
  });

  test('comparisons are added, joined and taken away again', async () => {
    const { screen, user, said } = await form('level == 4');
    await user.click(screen.getByRole('button', { name: 'Comparison' }));
    await user.selectOptions(screen.getByLabelText('Stage 1 joined by'), 'or');
    expect(said()).toMatch(/^level == 4 or /);
    await user.click(screen.getByRole('button', { name: 'Remove comparison 1.1' }));
    expect(said()).not.toMatch(/level/);
    expect(screen.queryByLabelText('Stage 1 joined by')).toBeNull();
  });

  test('how often, in a row or in all', async () => {
    const { screen, user, said } = await form('level == 4');
    const samples = screen.getByLabelText('Stage 1 samples');
    await user.clear(samples);
    await user.type(samples, '3');
    // An empty field is one sample, so that the digit comes behind it.
    expect(said()).toMatch(/^level == 4 \d+ times$/);
    await user.selectOptions(screen.getByLabelText('Stage 1 count'), 'row');
    expect(said()).toMatch(/^level == 4 for \d+|in a row/);
  });

  test('stages follow each other, each within its time, until the recorder has no more', async () => {
    const { screen, user, said } = await form('level == 4');
    const more = () => screen.getByRole('button', { name: 'Then another stage' }) as HTMLButtonElement;
    await user.click(more());
    await user.click(screen.getAllByLabelText('within')[1] as HTMLElement);
    expect(said()).toMatch(/ then .* within 1000/);
    await user.click(more());
    expect(more().disabled).toBe(true);
    expect(more().title).toBe('The recorder was built with 3 stages');
    await user.click(screen.getByRole('button', { name: 'Remove stage 1' }));
    expect(said()).not.toMatch(/level == 4/);
  });
});

test('a signal is named by the shortest end of its path that means it alone', () => {
  expect(RECORDER.signals.map(({ name }) => shortName(RECORDER, name))).toEqual(['a.go', 'level', 'b.go', 'state']);
});
