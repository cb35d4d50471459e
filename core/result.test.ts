import { describe, expect, test } from 'vitest';
import { saying, type Told } from './result.ts';

const problem = saying({
  odd: ({ text, count }: Told<'text' | 'count'>) => ({ message: `${count}: ${text}`, tryNext: [] }),
  plain: () => ({ message: 'Plain.', tryNext: ['Go on.'] }),
});

describe('what is said of what somebody gave', () => {
  test('holds all of it, or its beginning and its end where it is a whole file', () => {
    expect(problem('odd', { text: 'short', count: 3 })).toEqual({
      ...{ code: 'odd', message: '3: short', tryNext: [] },
      about: { text: 'short', count: 3 },
    });
    const long = `begin${'x'.repeat(1_000_000)}end`;
    const { message, about } = problem('odd', { text: long, count: 3 });
    expect(message).toMatch(/^3: beginx+…x+end$/);
    expect(message.length).toBeLessThan(1000);
    expect(JSON.stringify(about).length).toBeLessThan(1000);
    expect(problem('plain')).toEqual({ code: 'plain', message: 'Plain.', tryNext: ['Go on.'] });
  });
});
