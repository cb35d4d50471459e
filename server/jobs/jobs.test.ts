import { describe, expect, test, vi } from 'vitest';
import { fail, ok, problem } from '../../core/result.ts';
import { Jobs } from './index.ts';

type Log = ConstructorParameters<typeof Jobs>[0]['logbook'];

/** A logbook that keeps what it is told, or cannot write. */
function logbook(broken: { open?: boolean; close?: boolean } = {}) {
  const entries: { action: string; outcome: string; message: string }[] = [];
  const log: Log = {
    open: async (action: string) => {
      if (broken.open) throw new Error('disk full');
      return entries.push({ action, outcome: 'running', message: '' }) - 1;
    },
    note: async () => {
      if (broken.open) throw new Error('disk full');
    },
    close: async (id: number, outcome: string, message: string) => {
      if (broken.close) throw new Error('disk full');
      const entry = entries[id];
      if (entry) entries[id] = { ...entry, outcome, message };
    },
  };
  return { log, entries };
}

function jobs(log: Log, where = async () => ({ boardKey: 'b', project: 1, projectName: 'p' })) {
  let ends = 0;
  const made = new Jobs({ logbook: log, changed: (ended) => void (ends += ended ? 1 : 0), where });
  const start = (work: Parameters<Jobs['start']>[1]['work'], lane = 'cable') =>
    made.start(lane, { kind: 'scan', title: 'Work', board: '', work });
  return { made, start, ends: () => ends };
}

const quietly = async (work: () => Promise<void>) => {
  const spy = vi.spyOn(console, 'error').mockImplementation(() => {});
  try {
    await work();
  } finally {
    spy.mockRestore();
  }
};

describe('a lane', () => {
  test('carries its jobs out one after another, other lanes beside it', async () => {
    const { start } = jobs(logbook().log);
    const order: string[] = [];
    let release = () => {};
    const first = start(async () => {
      await new Promise<void>((resolve) => {
        release = resolve;
      });
      order.push('first');
      return ok('');
    });
    const second = start(async () => {
      order.push('second');
      return ok('');
    });
    await start(async () => {
      order.push('beside');
      return ok('');
    }, 'build').ended;
    release();
    await Promise.all([first.ended, second.ended]);
    expect(order).toEqual(['beside', 'first', 'second']);
  });

  test('goes on after a job that throws, which is told as a defect', () =>
    quietly(async () => {
      const { start } = jobs(logbook().log);
      const thrown = await start(async () => {
        throw new Error('oh');
      }).ended;
      expect(thrown).toMatchObject({ state: 'failed', problem: { code: 'defect' } });
      expect((await start(async () => ok('fine')).ended).state).toBe('done');
    }));

  test.each([{ open: true }, { close: true }])('goes on when the store cannot write: %o', (broken) =>
    quietly(async () => {
      const { start } = jobs(logbook(broken).log);
      const job = await start(async (_, note) => {
        note({ what: 'something' });
        return ok('It is done.');
      }).ended;
      expect(job).toMatchObject({ state: 'done', message: 'It is done. The logbook could not be written.' });
      expect((await start(async () => ok('again')).ended).state).toBe('done');
    }),
  );

  test('goes on when it cannot be told whose a job is', () =>
    quietly(async () => {
      const { start } = jobs(logbook().log, async () => {
        throw new Error('database is locked');
      });
      expect((await start(async () => ok('done')).ended).state).toBe('done');
    }));
});

describe('cancelling', () => {
  test('is heard by the work, and what came of it is written down', async () => {
    const { log, entries } = logbook();
    const { made, start } = jobs(log);
    const { id, ended } = start(async (watch) => {
      while (!watch.cancelled()) await new Promise((resolve) => setTimeout(resolve, 1));
      return { ok: false, error: { code: 'cancelled', message: 'Cancelled here.', tryNext: [] } };
    });
    await vi.waitFor(() => expect(made.list[0]?.state).toBe('running'));
    expect(made.cancel(id)).toBe(true);
    expect((await ended).state).toBe('cancelled');
    expect(entries).toEqual([{ action: 'Work', outcome: 'cancelled', message: 'Cancelled here.' }]);
    expect(made.cancel(id)).toBe(false);
  });

  test('of a job that waits its turn ends it before it begins', async () => {
    const { made, start } = jobs(logbook().log);
    let release = () => {};
    start(
      () =>
        new Promise((resolve) => {
          release = () => resolve(ok(''));
        }),
    );
    await vi.waitFor(() => expect(made.list[0]?.state).toBe('running'));
    let began = false;
    const waiting = start(async () => {
      began = true;
      return ok('');
    });
    made.cancel(waiting.id);
    release();
    expect((await waiting.ended).state).toBe('cancelled');
    expect(began).toBe(false);
  });

  test('of all that a project asked for leaves the others alone, and is over when they are', async () => {
    const { made } = jobs(logbook().log);
    const until = (project: number, kind: 'build' | 'scan', lane: string) =>
      made.start(lane, {
        ...{ kind, title: 'Work', board: '', project: { id: project, name: '' } },
        work: async (watch) => {
          while (!watch.cancelled()) await new Promise((resolve) => setTimeout(resolve, 1));
          return fail(problem('cancelled', 'Cancelled.'));
        },
      });
    until(1, 'build', 'a');
    until(1, 'build', 'a');
    const others = [until(2, 'build', 'b'), until(1, 'scan', 'c')];
    await vi.waitFor(() => expect(made.list.filter(({ state }) => state === 'running')).toHaveLength(3));
    await made.endAll(1, ['build']);
    expect(made.list.map(({ state }) => state)).toEqual(['running', 'running', 'cancelled', 'cancelled']);
    expect(made.list.map(({ project }) => project)).toEqual([1, 2, 1, 1]);
    for (const { id } of others) made.cancel(id);
    await Promise.all(others.map(({ ended }) => ended));
  });

  test('stays possible however many jobs came after: what has not ended stays in the list', async () => {
    const { made, start } = jobs(logbook().log);
    const first = start(async (watch) => {
      while (!watch.cancelled()) await new Promise((resolve) => setTimeout(resolve, 1));
      return ok('ended');
    });
    for (let i = 0; i < 60; i++) await start(async () => ok(''), 'build').ended;
    expect(made.list.length).toBeLessThanOrEqual(31);
    expect(made.cancel(first.id)).toBe(true);
    expect((await first.ended).state).toBe('done');
  });
});
