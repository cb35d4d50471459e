// Changes to the rows of a waveform.
import { describe, expect, test } from 'vitest';
import { nameOfRow, plainView, type Row, waveView } from '../../core/wave/index.ts';
import {
  changedRow,
  flat,
  grouped,
  joined,
  moved,
  signalOf,
  split,
  toggledGroup,
  ungrouped,
  widthOf,
  withoutRows,
} from '../../ui/wave/rows.ts';

const axis = { title: 'r', tickSeconds: 1e-6, length: 10, triggers: [], gaps: [], stored: null, sampled: true };
const signals = ['t.a', 't.b', 't.c'].map((name, i) => ({ name, width: i + 1, signed: false, domain: '' }));
const rows = plainView(axis, signals).rows;
const names = (list: readonly Row[]) =>
  list.map((row) => (row.kind === 'group' ? [row.label, ...row.rows.map(nameOfRow)] : nameOfRow(row)));

describe('rows', () => {
  test('are grouped where the first stood, closed, opened and let go again', () => {
    const one = grouped(rows, new Set(['s1', 's2']));
    expect(names(one)).toEqual(['t.a', ['group', 't.b', 't.c']]);
    const id = one[1]?.id as string;
    expect(flat(one)).toEqual(['s0', id, 's1', 's2']);
    expect(flat(toggledGroup(one, id))).toEqual(['s0', id]);
    expect(names(ungrouped(one, id))).toEqual(['t.a', 't.b', 't.c']);
    expect(names(withoutRows(one, new Set(['s1', 's2'])))).toEqual(['t.a']);
  });

  test('move down behind and up before the row they are dropped on, into a group and out of it', () => {
    expect(names(moved(rows, 's0', 's2'))).toEqual(['t.b', 't.c', 't.a']);
    expect(names(moved(rows, 's2', 's0'))).toEqual(['t.c', 't.a', 't.b']);
    const one = grouped(rows, new Set(['s1', 's2']));
    expect(names(moved(one, 's0', 's2'))).toEqual([['group', 't.b', 't.c', 't.a']]);
    expect(names(moved(one, 's1', 's0'))).toEqual(['t.b', 't.a', ['group', 't.c']]);
    expect(names(moved(rows, 's0', 's0'))).toEqual(['t.a', 't.b', 't.c']);
  });

  test('join with the uppermost in the highest bits, split into parts and into bits', () => {
    const one = joined(rows, new Set(['s0', 's1', 's2']));
    expect(names(one)).toEqual(['{a, b, c}']);
    expect(widthOf(one[0] as Row)).toBe(6);
    expect(names(split(one, one[0]?.id as string))).toEqual(['t.a', 't.b', 't.c']);
    expect(names(split(rows, 's2'))).toEqual(['t.a', 't.b', 't.c[2]', 't.c[1]', 't.c[0]']);
    expect(signalOf(split(rows, 's2')[2] as Row, signals)).toBeNull();
    expect(signalOf(rows[2] as Row, signals)?.name).toBe('t.c');
    expect(joined(rows, new Set(['s0']))).toEqual(rows);
  });

  test('a change of name, radix or style stays with its row', () => {
    const changed = changedRow(changedRow(rows, 's1', { label: 'both' }), 's2', {
      radix: { kind: 'fixed', point: 2 },
      style: 'analog',
    });
    expect(names(changed)).toEqual(['t.a', 'both', 't.c']);
    expect(waveView.safeParse({ rows: changed, cursors: [], notes: [], rules: [] }).success).toBe(true);
  });
});
