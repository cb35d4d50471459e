import { describe, expect, test } from 'vitest';
import { idcodeFields, nextState, type TapState } from './index.ts';
import { tmsPath } from './tap.ts';

// IEEE 1149.1, TAP controller state diagram (value from memory).
const TAP_STATES: readonly TapState[] = [
  'Test-Logic-Reset',
  'Run-Test/Idle',
  'Select-DR-Scan',
  'Capture-DR',
  'Shift-DR',
  'Exit1-DR',
  'Pause-DR',
  'Exit2-DR',
  'Update-DR',
  'Select-IR-Scan',
  'Capture-IR',
  'Shift-IR',
  'Exit1-IR',
  'Pause-IR',
  'Exit2-IR',
  'Update-IR',
];
const PAUSABLE = TAP_STATES.filter((state) => [0, 1].some((tms) => nextState(state, tms) === state));

describe('TAP states', () => {
  test('there are sixteen, and six of them keep TMS 0 or 1 to themselves', () => {
    expect(TAP_STATES).toHaveLength(16);
    expect([...PAUSABLE].sort()).toEqual([
      'Pause-DR',
      'Pause-IR',
      'Run-Test/Idle',
      'Shift-DR',
      'Shift-IR',
      'Test-Logic-Reset',
    ]);
  });

  test('five TCK with TMS 1 reach Test-Logic-Reset from any state', () => {
    for (const from of TAP_STATES) {
      let state: TapState = from;
      for (let i = 0; i < 5; i++) state = nextState(state, 1);
      expect(state).toBe('Test-Logic-Reset');
    }
  });

  test('the path between any two states arrives, and none is longer than needed', () => {
    for (const from of TAP_STATES)
      for (const to of TAP_STATES) {
        const path = tmsPath(from, to);
        expect(path.reduce<TapState>((state, tms) => nextState(state, tms), from)).toBe(to);
        expect(path.length).toBeLessThanOrEqual(8);
      }
    expect(tmsPath('Test-Logic-Reset', 'Shift-DR')).toEqual([0, 1, 0, 0]);
    expect(tmsPath('Run-Test/Idle', 'Shift-IR')).toEqual([1, 1, 0, 0]);
    expect(tmsPath('Shift-DR', 'Shift-IR')).toEqual([1, 1, 1, 1, 0, 0]);
    expect(tmsPath('Pause-DR', 'Shift-DR')).toEqual([1, 0]);
  });
});

test('the fields of an IDCODE', () => {
  // IEEE 1149.1, device identification register: version 4, part 16, manufacturer 11 bits, 1 (value from memory)
  expect(idcodeFields(0xa1234567)).toEqual({ version: 0xa, part: 0x1234, manufacturer: 0x2b3 });
});
