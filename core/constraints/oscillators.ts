/** A clock source on a pin of the part, and who knows of it. */
export interface OscillatorOnPin {
  readonly name: string;
  readonly pin: string;
  readonly hertz: number;
  readonly from: 'description' | 'bench';
}

interface Known {
  /** Of the board's description. */
  readonly described: readonly { readonly net: string; readonly pin: string; readonly hertz: number }[];
  /** As the pod says of the board in front of it. */
  readonly found: readonly { readonly name: string; readonly pin: string; readonly hz: number }[];
}

/**
 * What is said to clock a pin: by the description first, by the board itself where that says another frequency or the
 * description says nothing.
 */
export function oscillatorsOn(pin: string | undefined, { described, found }: Known): OscillatorOnPin[] {
  const all: readonly OscillatorOnPin[] = [
    ...described.map(({ net, pin: at, hertz }) => ({ name: net, pin: at, hertz, from: 'description' as const })),
    ...found.map(({ name, pin: at, hz }) => ({ name, pin: at, hertz: hz, from: 'bench' as const })),
  ];
  const here = all.filter((one) => one.pin === pin);
  return here.filter((one, i) => here.findIndex(({ hertz }) => hertz === one.hertz) === i);
}
