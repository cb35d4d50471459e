import { expect, test } from 'vitest';
import { oscillatorsOn } from './index.ts';

const described = [{ net: 'CLK_12M', pin: 'P1', hertz: 12e6 }];
const found = [
  { name: 'X1', pin: 'P1', hz: 12e6 },
  { name: 'X2', pin: 'P26', hz: 10e6 },
];

test('an oscillator is known by the description, by the bench, or by both', () => {
  expect(oscillatorsOn('P1', { described, found })).toEqual([
    { name: 'CLK_12M', pin: 'P1', hertz: 12e6, from: 'description' },
  ]);
  expect(oscillatorsOn('P26', { described, found })).toEqual([{ name: 'X2', pin: 'P26', hertz: 10e6, from: 'bench' }]);
  expect(oscillatorsOn('P1', { described: [], found })).toEqual([
    { name: 'X1', pin: 'P1', hertz: 12e6, from: 'bench' },
  ]);
});

test('where description and board differ both are offered', () => {
  expect(
    oscillatorsOn('P1', { described, found: [{ name: 'X1', pin: 'P1', hz: 50e6 }] }).map(({ hertz, from }) => [
      hertz,
      from,
    ]),
  ).toEqual([
    [12e6, 'description'],
    [50e6, 'bench'],
  ]);
});

test('a port on no pin, or on another one, has none', () => {
  expect(oscillatorsOn(undefined, { described, found })).toEqual([]);
  expect(oscillatorsOn('P3', { described, found })).toEqual([]);
});
