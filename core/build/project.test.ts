import { describe, expect, test } from 'vitest';
import { migrationOf, readProjectFile } from './index.ts';

const first = {
  format: 'nimble-project',
  version: 1,
  name: 'lamp',
  part: 'CV10',
  pins: 'pins.csv',
  clocks: { clk: 12e6 },
};

describe('nimble.json of an older version', () => {
  test('is read, and it is said which version it was, what was assumed, and what will be written', () => {
    const read = readProjectFile(JSON.stringify(first));
    expect(read.ok && read.value).toMatchObject({
      version: 3,
      name: 'lamp',
      grade: 2,
      accepted: [],
      clocks: { clk: 12e6 },
    });
    const told = migrationOf(JSON.stringify(first));
    expect(told?.from).toBe(1);
    expect(told?.message).toMatch(
      /of version 1\. .*as version 3, with speed grade 2, no board description, no accepted messages; the usual package of the part\. It stays as it is until a setting is changed; then it is written as version 3/,
    );
  });
  test('of the present version nothing is said', () =>
    expect(migrationOf(JSON.stringify({ ...first, version: 3 }))).toBeNull());
  test('of the one before, the package is what is assumed', () => {
    const before = JSON.stringify({ ...first, version: 2 });
    expect(migrationOf(before)?.message).toMatch(/of version 2\. .*, with the usual package of the part\./);
    expect(readProjectFile(before)).toMatchObject({ ok: true, value: { version: 3, grade: 2 } });
    expect(readProjectFile(JSON.stringify({ ...first, version: 3, package: 'Q64' }))).toMatchObject({
      value: { package: 'Q64' },
    });
  });
  test('of what is no JSON nothing is said either: reading it says so', () => {
    expect(migrationOf('{')).toBeNull();
    expect(readProjectFile('{').ok).toBe(false);
  });
});

describe('nimble.json of a newer version', () => {
  test.each([4, 99])('%i is refused with the versions that are known', (version) => {
    const read = readProjectFile(JSON.stringify({ ...first, version }));
    expect(read.ok ? null : read.error).toMatchObject({
      code: 'project-version',
      message: `nimble.json is of version ${version}; this release knows version 1 and version 2 and version 3.`,
      tryNext: ['Open it with a newer release.'],
    });
  });
});
