import { describe, expect, test } from 'vitest';
import type { Job } from '../../server/index.ts';
import { cancellable, verbsFor } from './commands.ts';
import { keysAt } from './keys.ts';

const names = (...given: Parameters<typeof verbsFor>) => verbsFor(...given).map(({ name }) => name);
const CABLE = {
  power: false,
  bootSwitch: false,
  reconfigure: false,
  reset: false,
  view: false,
  practice: false,
  line: false,
  bench: false,
};

describe('what can be asked for', () => {
  test('follows what the pod can do, and what the supply is now', () => {
    expect(names(null, null)).not.toContain('Power off');
    expect(names({ ...CABLE, power: true }, true)).toContain('Power off');
    expect(names({ ...CABLE, power: true }, false)).toContain('Power on');
    expect(names({ ...CABLE, reconfigure: true }, true)).toContain('Reconfigure from flash');
    expect(names({ ...CABLE }, true)).not.toContain('Reconfigure from flash');
  });

  test('nothing that erases begins without the question of its station', () => {
    for (const { name, order } of verbsFor({ ...CABLE, power: true, reconfigure: true }, true))
      if (/write|erase/i.test(name)) expect(order).toBeNull();
  });

  test('what waits or runs can be cancelled, what ended cannot', () => {
    const job = (id: number, endedAt: number | null) => ({ id, endedAt }) as Job;
    expect(cancellable([job(3, null), job(2, 5), job(1, null)]).map(({ id }) => id)).toEqual([3, 1]);
  });
});

describe('the list of keys', () => {
  test('has those of everywhere and those of the station alone', () => {
    const at = (path: string) => keysAt(path).map(([, what]) => what);
    expect(at('/logbook')).toHaveLength(4);
    expect(at('/design/sources')).toContain('build');
    expect(at('/capture')).toContain('to the trigger');
    expect(at('/design/sources')).not.toContain('to the trigger');
  });
});
