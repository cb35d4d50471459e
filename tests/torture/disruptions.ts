import type { Chance } from '../fuzz/index.ts';
import { type Rig, wait } from './rig.ts';

/** Something that happens in the middle of work. `milliseconds`: how long it lasts before it is mended. */
interface Disruption {
  readonly name: string;
  readonly milliseconds: number;
  readonly strike: (rig: Rig, chance: Chance) => Promise<void>;
}

const kill =
  (...what: readonly ('web' | 'pod')[]) =>
  async (rig: Rig) => {
    await Promise.all(what.map((one) => rig.kill(one)));
  };

export const DISRUPTIONS: readonly Disruption[] = [
  { name: 'web killed', milliseconds: 0, strike: kill('web') },
  { name: 'pod killed', milliseconds: 0, strike: kill('pod') },
  { name: 'web killed', milliseconds: 0, strike: kill('web') },
  { name: 'pod killed', milliseconds: 0, strike: kill('pod') },
  { name: 'both killed', milliseconds: 0, strike: kill('web', 'pod') },
  { name: 'both killed', milliseconds: 0, strike: kill('pod', 'web') },
  { name: 'connection cut', milliseconds: 200, strike: async (rig) => rig.wire.cut() },
  {
    name: 'connection cut again and again',
    milliseconds: 0,
    strike: async (rig, chance) => {
      for (let i = 0; i < 5; i++) {
        rig.wire.cut();
        await wait(50 + chance.below(1200));
      }
    },
  },
  {
    name: '250 ms each way',
    milliseconds: 4000,
    strike: async (rig) => {
      rig.wire.weather = { kind: 'far', milliseconds: 250 };
    },
  },
  {
    name: 'bits flipped on the way out',
    milliseconds: 2000,
    strike: async (rig, chance) => {
      rig.wire.weather = { kind: 'noisy', oneIn: 1 + chance.below(20), way: 'out' };
    },
  },
  {
    name: 'bits flipped on the way back',
    milliseconds: 2000,
    strike: async (rig, chance) => {
      rig.wire.weather = { kind: 'noisy', oneIn: 1 + chance.below(20), way: 'back' };
    },
  },
  {
    name: 'nothing arrives',
    milliseconds: 3000,
    strike: async (rig) => {
      rig.wire.weather = { kind: 'stalled' };
    },
  },
  {
    name: 'supply off and on',
    milliseconds: 0,
    strike: async (rig, chance) => {
      await rig.api.bench.setFault.mutate({ name: 'board-unpowered', on: true });
      await wait(chance.below(500));
      await rig.api.bench.setFault.mutate({ name: 'board-unpowered', on: false });
    },
  },
];
