import type { Part } from '../families/index.ts';
import { FLASH_PARTS, smallestErase } from '../flash/index.ts';
import { checkPlaces, type Place } from '../images/index.ts';
import { describeIdcode } from '../jtag/index.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import type { ReachedFlash } from './flash.ts';
import type { BootLook, KeepBlock, KeepOptions } from './keep-blocks.ts';

/** One thing looked at before the first erase. `stop` keeps the write from beginning, `warn` does not. */
export interface KeepCheck {
  readonly name:
    | 'chip'
    | 'protection'
    | 'size'
    | 'place'
    | 'image'
    | 'golden'
    | 'replaced'
    | 'boot switch'
    | 'running design'
    | 'fresh';
  readonly state: 'pass' | 'warn' | 'stop';
  readonly message: string;
}

/** What is known besides the blocks. */
export interface KeepContext {
  /** Edits since the build that is among the blocks, in words. */
  readonly stale: readonly string[];
  /** Name of the chip that the board's description or a person names; null without one. */
  readonly expects: string | null;
}

/** Everything that can be known before anything is erased. The FPGA through which the flash was reached will boot. */
export function checkKeep(
  flash: ReachedFlash,
  blocks: readonly KeepBlock[],
  look: BootLook,
  options: KeepOptions,
  { stale, expects }: KeepContext,
): KeepCheck[] {
  const checks: KeepCheck[] = [];
  const add = (name: KeepCheck['name'], state: KeepCheck['state'], message: string) =>
    checks.push({ name, state, message });
  const { part, parameters, isProtected, bootSource, through } = flash;
  if (expects !== null && expects !== part.name)
    add(
      'chip',
      'stop',
      `${chosen(expects)} is named, but the chip answers ${hexBytes(part.identity)}: ${part.maker} ${part.name}.`,
    );
  else
    add(
      'chip',
      parameters && expects !== null ? 'pass' : 'warn',
      `${part.maker} ${part.name}; ` +
        `${parameters ? 'its own table agrees' : 'it has no table of its own'}.${expects === null ? ' Nothing says which chip should be here, so another board would be written as well: name it in a board description.' : ''}`,
    );
  add(
    'protection',
    isProtected ? 'stop' : 'pass',
    isProtected ? 'Block protection is on: the chip would not carry out a write.' : 'Off.',
  );
  const tooFar = blocks.filter(({ address, bytes }) => address + bytes.length > part.bytes);
  for (const { name, address, bytes } of tooFar)
    add('size', 'stop', `"${name}" ends at ${hex(address + bytes.length)}, the chip at ${hex(part.bytes)}.`);
  if (tooFar.length === 0)
    add(
      'size',
      'pass',
      `${blocks.reduce((sum, { bytes }) => sum + bytes.length, 0).toLocaleString('en')} bytes of ` +
        `${part.bytes.toLocaleString('en')}.`,
    );
  for (const message of crossings(flash, blocks)) add('place', 'stop', message);
  for (const block of blocks) if (block.role !== 'data') checkImage(block, flash, add);
  checkGolden(through, blocks, look, options, add);
  for (const message of covered(flash, blocks, look)) add('replaced', 'warn', message);
  if (look.update !== null && blocks.some(({ role }) => role === 'image'))
    add(
      'replaced',
      'warn',
      `The boot header names an update at ${hex(look.update)}. It is erased, and the golden image at 0x0 is ` +
        'written over.',
    );
  add(
    'boot switch',
    bootSource === 'jtag' ? 'warn' : 'pass',
    bootSource === 'jtag' ? 'It stands at JTAG: the FPGA will not look into the flash.' : 'It stands at flash.',
  );
  const stops = through.flashStopsDesign;
  add(
    'running design',
    stops ? 'warn' : 'pass',
    stops
      ? `What runs stops: a ${through.name} shares its flash pins with the design.`
      : 'What runs goes on while the flash is written.',
  );
  if (stale.length > 0) add('fresh', 'warn', `Edited since the build: ${stale.join(', ')}.`);
  return checks;
}

/** Data that would be laid over an image that stands: the board would no longer boot from it. */
function covered(
  { through, boot }: ReachedFlash,
  blocks: readonly KeepBlock[],
  { golden, update, first }: BootLook,
): string[] {
  const size = through.family.stream.bytes(through);
  const places = [
    ...(golden.isWhole
      ? [{ name: `The image ${golden.fingerprint?.slice(0, 8) ?? ''} at 0x0`, start: boot.golden, held: first }]
      : []),
    ...(update === null ? [] : [{ name: `The update at ${hex(update)}`, start: update, held: null }]),
  ];
  return places.flatMap(({ name, start, held }) =>
    blocks.flatMap((block) => {
      if (block.role !== 'data' || block.address >= start + size || block.address + block.bytes.length <= start)
        return [];
      const from = block.address - start;
      const isSame = held !== null && from >= 0 && block.bytes.every((byte, i) => held[from + i] === byte);
      return isSame
        ? []
        : [
            `${name} would be written over by "${block.name}" at ${hex(block.address)}: the FPGA could not boot ` +
              'from it any more.',
          ];
    }),
  );
}

/** Stable code of what each check forbids, and what to do about it. */
const REFUSALS: Partial<Record<KeepCheck['name'], readonly [code: string, ...tryNext: string[]]>> = {
  chip: [
    'flash-other',
    'Compare the marking on the chip.',
    'Name the right chip in the board description, or on the call.',
  ],
  protection: [
    'flash-protected',
    'Check the write-protect pin of the chip.',
    'Take the protection off, where it is meant to be off.',
  ],
  size: ['flash-too-large', 'Place it lower, or choose a larger chip.'],
  place: ['keep-place', 'Move one of the blocks under Layout.'],
  image: [
    'keep-image',
    'Choose an image for the FPGA that is on the board.',
    'Build it again, or copy the file again.',
  ],
  golden: ['no-golden', 'Add a block with the role golden at address 0x0.'],
};

/** The first thing that forbids it. */
export function allowed(checks: readonly KeepCheck[]): Result<null> {
  const stop = checks.find(({ state }) => state === 'stop');
  if (!stop) return ok(null);
  const [code, ...tryNext] = REFUSALS[stop.name] ?? ['keep-refused'];
  return fail(problem(code, `${stop.message} Nothing was erased.`, ...tryNext));
}

type Add = (name: KeepCheck['name'], state: KeepCheck['state'], message: string) => void;

function checkImage({ name, role, address, bytes }: KeepBlock, { through: fpga, boot }: ReachedFlash, add: Add): void {
  const { stream } = fpga.family;
  const { idcode, fingerprint, isWhole } = stream.facts(bytes);
  const advice = stream.misordered(bytes);
  if (advice) return add('image', 'stop', `"${name}": ${advice}`);
  if (idcode === null) return add('image', 'stop', `"${name}" is no configuration stream; give it the role of data.`);
  if (((idcode ^ fpga.idcode) & 0x0fffffff) !== 0)
    return add('image', 'stop', `"${name}" is for ${describeIdcode(idcode)}, the FPGA is a ${fpga.name}.`);
  if (!isWhole) return add('image', 'stop', `"${name}" is damaged: its CRC is wrong or it is cut short.`);
  if (role !== 'update' && address !== boot.golden)
    return add('image', 'stop', `"${name}" must begin at 0x0: that is where the FPGA looks.`);
  add('image', 'pass', `"${name}" is whole, for a ${fpga.name}, fingerprint ${fingerprint?.slice(0, 8)}.`);
}

function checkGolden(
  { family }: Part,
  blocks: readonly KeepBlock[],
  { golden }: BootLook,
  { replaceGolden }: KeepOptions,
  add: Add,
): void {
  const own = blocks.find(({ role }) => role === 'golden');
  const update = blocks.find(({ role }) => role === 'update');
  const print = golden.fingerprint?.slice(0, 8);
  if (!own && !update) return;
  if (blocks.some(({ role }) => role === 'image'))
    return add('golden', 'stop', 'A golden image and an image alone both want address 0x0.');
  if (blocks.filter(({ role }) => role === 'update').length > 1)
    return add('golden', 'stop', 'There can be one update: the boot header names one address.');
  if (!golden.isWhole && !own)
    return add(
      'golden',
      'stop',
      'The flash holds no golden image to fall back to, and none is to be written. Add one at 0x0.',
    );
  if (!golden.isWhole) return add('golden', 'pass', 'There is none yet: it is written first.');
  if (!own || family.stream.facts(own.bytes).fingerprint === golden.fingerprint)
    return add('golden', 'pass', `${print} stands and is not touched.`);
  add(
    'golden',
    'warn',
    replaceGolden
      ? `${print} is replaced: a power loss meanwhile leaves a board that does not boot.`
      : `${print} stands and is not touched; the one given here is another.`,
  );
}

/**
 * Blocks that overlap, or share a sector with an image or the boot header: what is erased for one would take the other.
 */
function crossings({ part, boot }: ReachedFlash, blocks: readonly KeepBlock[]): string[] {
  const places: Place[] = blocks.map(({ name, role, address, bytes }) => ({
    name,
    start: address,
    end: address + bytes.length,
    guarded: role !== 'data',
  }));
  const start = boot.headerAddress(part.bytes);
  if (blocks.some(({ role }) => role === 'update'))
    places.push({ name: 'boot header', start, end: start + boot.headerRoom, guarded: true });
  return checkPlaces(places, part.bytes, smallestErase(part).bytes)
    .filter(({ severity, code }) => severity === 'error' && code !== 'does-not-fit')
    .map(({ message }) => message);
}

const hexBytes = (bytes: readonly number[]): string =>
  bytes.map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');

function chosen(name: string): string {
  const known = FLASH_PARTS.find((part) => part.name === name);
  return known ? `${known.maker} ${name} (${hexBytes(known.identity)})` : `${name}, which is no chip known here,`;
}

const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;
