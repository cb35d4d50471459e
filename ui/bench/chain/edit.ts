import type { ChainFile, ExpectedDevice } from '../../../core/chain/index.ts';

const EMPTY: ChainFile = { format: 'nimble-chain', version: 1, devices: [] };
const NEW_DEVICE: ExpectedDevice = { part: null, idcode: null, irLength: 4 };

/** One more device, farthest from TDO. */
export const added = (chain: ChainFile | null): ChainFile => ({
  ...(chain ?? EMPTY),
  devices: [...(chain?.devices ?? []), NEW_DEVICE],
});

export const removed = (chain: ChainFile, place: number): ChainFile => ({
  ...chain,
  devices: chain.devices.filter((_, i) => i !== place),
});

export const edited = (chain: ChainFile, place: number, device: ExpectedDevice): ChainFile => ({
  ...chain,
  devices: chain.devices.map((old, i) => (i === place ? device : old)),
});

/** The device of one place put where another stands; those between move up. */
export function moved(chain: ChainFile, from: number, to: number): ChainFile {
  const devices = [...chain.devices];
  const [device] = devices.splice(from, 1);
  if (device) devices.splice(to, 0, device);
  return { ...chain, devices };
}
