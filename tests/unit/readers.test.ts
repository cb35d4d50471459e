// What `npm run fuzz` tries for as long as one likes, a little of each: what is good is read, and what is nearly good
// is refused in words. The corpus holds what was once read wrongly.
import { describe, expect, test } from 'vitest';
import { ProblemError } from '../../core/result.ts';
import { inputOf, READERS, tryOne } from '../fuzz/index.ts';

const INPUTS = 12;

describe.each(READERS.map((reader) => [reader.name, reader] as const))('%s', (_, reader) => {
  test('reads its corpus, or says what is wrong with it', () => {
    const seeds = reader.seeds();
    expect(seeds.length).toBeGreaterThan(0);
    for (const seed of seeds)
      try {
        reader.read(seed);
      } catch (error) {
        expect(error).toBeInstanceOf(ProblemError);
      }
  });

  test('takes what is nearly right, the same for the same seed', () => {
    for (let index = 0; index < INPUTS; index++) {
      expect(inputOf(reader, 7, index)).toEqual(inputOf(reader, 7, index));
      const fell = tryOne(reader, 7, index);
      expect(fell?.why === 'slow' ? null : fell).toBeNull();
    }
  });
});
