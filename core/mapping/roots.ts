import type { BitDesign } from './blast.ts';
import { type Literal, TRUE } from './gates/index.ts';

/** Bits that must exist as signals: what flip-flops, memories and pins take. */
export function rootsOf({ flipFlops, memoryPorts, outputs, derivedClocks }: BitDesign): Literal[] {
  const some = (literal: Literal | null): Literal[] => (literal === null ? [] : [literal]);
  const roots = [
    ...outputs.flatMap(({ bits }) => bits),
    ...flipFlops.flatMap((ff) => [
      ...ff.data,
      ...some(ff.syncReset),
      ...some(ff.enable),
      ...some(ff.asyncReset),
      ...(ff.asyncLoad ?? []),
    ]),
    ...memoryPorts.flatMap((port) =>
      port.kind === 'write' ? [...port.address, port.enable, ...port.data] : [...port.address],
    ),
    ...derivedClocks.values(),
  ];
  return roots.filter((literal) => literal > TRUE);
}
