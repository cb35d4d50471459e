/** Parts of the Bench station, in the order of the work. */
export const VIEWS = [
  { id: 'chain', name: 'Chain', hint: 'Who answers on the chain, beside who should.' },
  { id: 'diagnosis', name: 'Diagnosis', hint: 'Questions from the pod to the chips, each answered by measuring.' },
  { id: 'speed', name: 'TCK', hint: 'How fast the chain can be clocked before bits come back wrong.' },
  { id: 'pins', name: 'Pins', hint: 'Levels at the pins by boundary scan, while the design runs or instead of it.' },
  { id: 'wiring', name: 'Wiring', hint: 'Shorts and opens between devices, found through their pins.' },
  { id: 'svf', name: 'SVF', hint: 'Play a vector file on the chain, line by line if need be.' },
  { id: 'pods', name: 'Pods', hint: 'The cable to the board, here or elsewhere on the network.' },
  { id: 'practice', name: 'Practice', hint: 'Make something go wrong on purpose, and see how it shows.' },
] as const;

export type ViewId = (typeof VIEWS)[number]['id'];
