import { describe, expect, test, vi } from 'vitest';
import { eventStream, Publisher } from './index.ts';
import type { Told } from './publisher.ts';

type Slices = { readonly a: number; readonly b: string };

function publisher(values: { a: number; b: string }) {
  const made: string[] = [];
  const one = new Publisher<Slices>({
    a: async () => {
      made.push('a');
      return values.a;
    },
    b: async () => {
      made.push('b');
      return values.b;
    },
  });
  return { one, made };
}

const settled = () => new Promise((resolve) => setTimeout(resolve, 80));

describe('slices', () => {
  test('are told when they change and only then, each for itself', async () => {
    const values = { a: 1, b: 'x' };
    const { one, made } = publisher(values);
    const told: Told[] = [];
    one.listen((slice) => void told.push(slice));
    await settled();
    expect(told).toEqual([
      { slice: 'a', value: 1 },
      { slice: 'b', value: 'x' },
    ]);
    values.a = 2;
    one.changed('a');
    one.changed('a');
    await settled();
    one.changed();
    await settled();
    expect(told.slice(2)).toEqual([{ slice: 'a', value: 2 }]);
    expect(made).toEqual(['a', 'b', 'a', 'a', 'b']);
  });

  test('who comes later gets all of them at once; while nobody listens none is made', async () => {
    const { one, made } = publisher({ a: 1, b: 'x' });
    one.changed();
    await settled();
    expect(made).toEqual([]);
    one.listen(() => {});
    await settled();
    const late: Told[] = [];
    one.listen((slice) => void late.push(slice));
    expect(late.map(({ slice }) => slice)).toEqual(['a', 'b']);
  });

  test('one that cannot be made hinders no other and is tried again', async () => {
    const spy = vi.spyOn(console, 'error').mockImplementation(() => {});
    let broken = true;
    const one = new Publisher<Slices>({
      a: async () => {
        if (broken) throw new Error('database is locked');
        return 1;
      },
      b: async () => 'x',
    });
    const told: Told[] = [];
    one.listen((slice) => void told.push(slice));
    await settled();
    expect(told).toEqual([{ slice: 'b', value: 'x' }]);
    broken = false;
    await vi.waitFor(() => expect(told).toContainEqual({ slice: 'a', value: 1 }));
    spy.mockRestore();
  });
});

describe('the stream to a page', () => {
  test('a page that does not read costs one pending value a slice, the newest', async () => {
    let tell: (told: Told) => void = () => {};
    let show: (status: unknown) => void = () => {};
    let left = 0;
    const stream = eventStream({
      slices: (listener) => {
        tell = listener;
        return () => void left++;
      },
      board: (listener) => {
        show = listener;
        return () => void left++;
      },
    });
    for (let i = 0; i < 1000; i++) {
      tell({ slice: 'jobs', value: i });
      tell({ slice: 'design', value: `d${i}` });
      show(i);
    }
    const reader = stream.getReader();
    const read = async () => new TextDecoder().decode((await reader.read()).value);
    const lines = [await read(), await read(), await read()];
    // The first was on its way before the rest came; behind it only the newest of each waits.
    expect(lines.filter((line) => line.includes('999')).length).toBeGreaterThanOrEqual(2);
    tell({ slice: 'jobs', value: 'last' });
    let last = '';
    while (!last.includes('last')) last = await read();
    expect(last).toBe('data: {"slice":"jobs","value":"last"}\n\n');
    await reader.cancel();
    expect(left).toBe(2);
  });
});
