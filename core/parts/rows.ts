import { item } from '../lists.ts';
import { type BoardParts, boardParts } from './shape.ts';

/** One wire of a part. `way` as the FPGA sees it; `net` is what a board calls it. */
interface Wire {
  readonly id: string;
  readonly name: string;
  readonly way: 'in' | 'out';
  readonly net: string;
  /** The part works without it. */
  readonly optional?: boolean;
}

const wire = (id: string, name: string, way: Wire['way'], net: string, optional = false): Wire => ({
  ...{ id, name, way, net },
  ...(optional && { optional }),
});

const one = (way: Wire['way'], net: string): readonly Wire[] => [wire('pin', 'pin', way, net)];
const SEGMENTS = [...'abcdefg', 'point'].map((name, i) => wire(`s${i}`, name, 'out', `SEG${i}`));
const COMMONS = Array.from({ length: 8 }, (_, i) => wire(`c${i}`, `digit ${i}`, 'out', `DIG${i}`, i > 0));

/** The kinds of parts, each with its wires; `net` of a wire has the part's number behind it where there are several. */
export const KINDS = [
  {
    id: 'lamp',
    name: 'Lamp',
    prefix: 'L',
    hasActive: true,
    hasLabel: true,
    isNumbered: true,
    wires: one('out', 'LAMP'),
  },
  {
    id: 'button',
    name: 'Button',
    prefix: 'B',
    hasActive: true,
    hasLabel: true,
    isNumbered: true,
    wires: one('in', 'BTN'),
  },
  {
    id: 'switch',
    name: 'Switch',
    prefix: 'S',
    hasActive: true,
    hasLabel: true,
    isNumbered: true,
    wires: one('in', 'SW'),
  },
  {
    id: 'oscillator',
    name: 'Oscillator',
    prefix: 'X',
    hasActive: false,
    hasLabel: false,
    isNumbered: true,
    wires: one('in', 'CLK'),
  },
  {
    ...{ id: 'digits', name: 'Digits', prefix: 'digits', hasActive: false, hasLabel: false, isNumbered: false },
    wires: [...SEGMENTS, ...COMMONS],
  },
  {
    ...{ id: 'serial', name: 'Serial line', prefix: 'line', hasActive: false, hasLabel: true, isNumbered: false },
    wires: [
      wire('tx', 'TX, from the FPGA', 'out', 'UART_TX'),
      wire('rx', 'RX, to the FPGA', 'in', 'UART_RX'),
      wire('rts', 'RTS, from the FPGA', 'out', 'UART_RTS', true),
      wire('cts', 'CTS, to the FPGA', 'in', 'UART_CTS', true),
    ],
  },
  {
    ...{ id: 'display', name: 'Character display', prefix: 'D', hasActive: false, hasLabel: true, isNumbered: true },
    wires: [
      wire('enable', 'enable', 'out', 'LCD_E'),
      wire('select', 'select', 'out', 'LCD_RS'),
      ...[4, 5, 6, 7].map((bit) => wire(`d${bit}`, `D${bit}`, 'out', `LCD_D${bit}`)),
    ],
  },
  {
    ...{ id: 'keyboard', name: 'Keyboard', prefix: 'K', hasActive: false, hasLabel: true, isNumbered: true },
    wires: [wire('clock', 'clock', 'in', 'KBD_CLK'), wire('data', 'data', 'in', 'KBD_DATA')],
  },
  {
    ...{ id: 'sensor', name: 'Sensor on SPI', prefix: 'T', hasActive: false, hasLabel: true, isNumbered: true },
    wires: [
      wire('clock', 'clock', 'out', 'SENSOR_SCK'),
      wire('select', 'select', 'out', 'SENSOR_CS_N'),
      wire('out', 'data', 'in', 'SENSOR_MISO'),
    ],
  },
] as const satisfies readonly {
  readonly id: string;
  readonly name: string;
  /** Names of new ones begin so. */
  readonly prefix: string;
  /** It is lit or pressed at a high level, or at a low one. */
  readonly hasActive: boolean;
  /** It can be told what stands beside it on the board. */
  readonly hasLabel: boolean;
  readonly isNumbered: boolean;
  readonly wires: readonly Wire[];
}[];

export type KindId = (typeof KINDS)[number]['id'];

/** One part as it is edited: whatever its kind, a name, a label, and pins by the wires it has. */
export interface PartRow {
  readonly kind: KindId;
  readonly name: string;
  readonly label: string;
  /** Lit, pressed or up at a high level. */
  readonly active: boolean;
  /** Of an oscillator; 0 of all else. */
  readonly hertz: number;
  readonly pins: Readonly<Record<string, string>>;
}

const kindOf = (id: KindId) =>
  item(
    KINDS.filter((kind) => kind.id === id),
    0,
  );

export const wiresOf = (id: KindId): readonly Wire[] => kindOf(id).wires;

/** A part that is not wired yet, with a name that none has; null for a second one of what a board has once. */
export function newRow(kind: KindId, rows: readonly PartRow[]): PartRow | null {
  const { prefix, isNumbered } = kindOf(kind);
  if (!isNumbered && rows.some((row) => row.kind === kind)) return null;
  let number = 0;
  while (rows.some(({ name }) => name === `${prefix}${number}`)) number++;
  const name = isNumbered ? `${prefix}${number}` : prefix;
  return { kind, name, label: '', active: true, hertz: kind === 'oscillator' ? 12_000_000 : 0, pins: {} };
}

const plain = (kind: KindId, { name, label = '' }: { readonly name: string; readonly label?: string | undefined }) => ({
  ...{ kind, name, label, active: true, hertz: 0 },
});

/** All parts of a board, in the order of their kinds. What an editor has no row for is left out (`water`, `banks`). */
export function rowsOf(parts: BoardParts): PartRow[] {
  const { digits, serial } = parts;
  const controls = (kind: 'lamp' | 'button' | 'switch', list: BoardParts['lamps']) =>
    list.map((one): PartRow => ({ ...plain(kind, one), active: one.active ?? true, pins: { pin: one.pin } }));
  return [
    ...controls('lamp', parts.lamps),
    ...controls('button', parts.buttons),
    ...controls('switch', parts.switches),
    ...parts.oscillators.map(
      (one): PartRow => ({ ...plain('oscillator', one), hertz: one.hz, pins: { pin: one.pin } }),
    ),
    ...(digits ? [digitsRow(digits)] : []),
    ...(serial
      ? [{ ...plain('serial', serial), pins: present({ ...serial, name: undefined, label: undefined }) }]
      : []),
    ...parts.displays.map(
      ({ data, enable, select, ...one }): PartRow => ({
        ...plain('display', one),
        pins: { enable, select, ...Object.fromEntries(data.map((pin, i) => [`d${4 + i}`, pin])) },
      }),
    ),
    ...parts.keyboards.map(
      ({ clock, data, ...one }): PartRow => ({ ...plain('keyboard', one), pins: { clock, data } }),
    ),
    ...parts.sensors.map(
      ({ clock, select, out, ...one }): PartRow => ({
        ...plain('sensor', one),
        pins: { clock, select, out },
      }),
    ),
  ];
}

const digitsRow = ({ segments, commons }: NonNullable<BoardParts['digits']>): PartRow => ({
  ...plain('digits', { name: 'digits' }),
  pins: Object.fromEntries([
    ...segments.map((pin, i) => [`s${i}`, pin] as const),
    ...commons.map((pin, i) => [`c${i}`, pin] as const),
  ]),
});

const present = (pins: Readonly<Record<string, string | undefined>>): Record<string, string> =>
  Object.fromEntries(Object.entries(pins).flatMap(([id, pin]) => (pin === undefined ? [] : [[id, pin]])));

/**
 * The parts of rows, put over those that were there before: what has no row stays (`water`, `banks`, which FPGA), and
 * so does what a row does not say of its part (the position of a switch, the limits of a sensor).
 */
export function partsOf(rows: readonly PartRow[], before: BoardParts): BoardParts {
  const of = (kind: KindId) => rows.filter((row) => row.kind === kind);
  const named = <T extends { readonly name: string }>(list: readonly T[], name: string): Partial<T> =>
    list.find((one) => one.name === name) ?? {};
  const pin = (row: PartRow, id: string): string => row.pins[id] ?? '';
  const about = ({ name, label }: PartRow) => ({ name, ...(label === '' ? { label: undefined } : { label }) });
  const control = (row: PartRow, list: BoardParts['lamps']) => ({
    ...named(list, row.name),
    ...about(row),
    pin: pin(row, 'pin'),
    ...(row.active ? { active: undefined } : { active: false }),
  });
  const [digits] = of('digits');
  const [serial] = of('serial');
  const some = (row: PartRow, id: string) => (pin(row, id) === '' ? {} : { [id]: pin(row, id) });
  return boardParts.parse(
    withoutUndefined({
      ...before,
      lamps: of('lamp').map((row) => control(row, before.lamps)),
      buttons: of('button').map((row) => control(row, before.buttons)),
      switches: of('switch').map((row) => control(row, before.switches)),
      oscillators: of('oscillator').map((row) => ({ name: row.name, pin: pin(row, 'pin'), hz: row.hertz })),
      digits: digits && {
        ...before.digits,
        segments: SEGMENTS.map(({ id }) => pin(digits, id)),
        commons: COMMONS.map(({ id }) => pin(digits, id)).filter((one) => one !== ''),
      },
      serial: serial && {
        ...about(serial),
        tx: pin(serial, 'tx'),
        rx: pin(serial, 'rx'),
        ...some(serial, 'rts'),
        ...some(serial, 'cts'),
      },
      displays: of('display').map((row) => ({
        ...about(row),
        enable: pin(row, 'enable'),
        select: pin(row, 'select'),
        data: [4, 5, 6, 7].map((bit) => pin(row, `d${bit}`)),
      })),
      keyboards: of('keyboard').map((row) => ({ ...about(row), clock: pin(row, 'clock'), data: pin(row, 'data') })),
      sensors: of('sensor').map((row) => ({
        ...named(before.sensors, row.name),
        ...about(row),
        ...{ clock: pin(row, 'clock'), select: pin(row, 'select'), out: pin(row, 'out') },
      })),
    }),
  );
}

/** As a file holds it: what is not said is not there. */
const withoutUndefined = (value: unknown): unknown => JSON.parse(JSON.stringify(value));
