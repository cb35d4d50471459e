import { strToU8, zipSync } from 'fflate';
import type { Chance } from '../fuzz/index.ts';
import type { Ledger } from './ledger.ts';
import type { Order, Rig } from './rig.ts';

/** What an operation is given. `isOver`: nothing more is to be begun. */
export interface Hands {
  readonly rig: Rig;
  readonly ledger: Ledger;
  readonly chance: Chance;
  readonly isOver: () => boolean;
}

/** Long work, or work done again and again; `milliseconds` is about how long it takes undisturbed. */
interface Operation {
  readonly name: string;
  readonly milliseconds: number;
  readonly run: (hands: Hands) => Promise<void>;
}

export const LAYOUT = 'two-images.layout.json';

/** A job of the workbench; where it ended well, `claim` says what has to be there from then on. */
const job =
  (order: Order, claim: (hands: Hands, message: string) => void = () => {}) =>
  async (hands: Hands) => {
    while (!hands.isOver()) {
      const ended = await hands.rig.did(order);
      if (ended === null) return;
      if (ended.state === 'done') claim(hands, ended.message);
    }
  };

async function typing({ rig, ledger, isOver }: Hands): Promise<void> {
  const name = 'notes.md';
  const put = (text: string) => rig.api.project.addFiles.mutate({ files: [{ name, text }] });
  for (let text = `${Date.now()}\n`; !isOver(); text += `line ${text.length}\n`) await ledger.save(name, text, put);
}

async function planning({ rig, ledger, isOver }: Hands): Promise<void> {
  const [main] = await rig.api.probe.shelf.query();
  const put = (names: string) =>
    rig.api.probe.saveShelf.mutate([
      ...(main ? [main] : []),
      ...names
        .split(',')
        .slice(main ? 1 : 0)
        .map((name) => ({ name, inBuild: false, plan: { recorders: [], panels: [] } })),
    ]);
  for (let turn = 0; !isOver(); turn++)
    await ledger.save('(plans)', [...(main ? [main.name] : []), `plan ${Date.now()} ${turn}`].join(), put);
}

async function importing({ rig, ledger, isOver }: Hands): Promise<void> {
  const before = (await rig.api.project.list.query()).current;
  while (!isOver()) {
    const name = `Imported ${Date.now()}`;
    const settings = { format: 'nimble-project', version: 1, name, part: 'CV10' };
    const zip = zipSync({ 'nimble.json': strToU8(JSON.stringify(settings)), 'a.v': strToU8('module a; endmodule\n') });
    const { id } = (await rig.upload('projects/import?name=a.zip', zip)) as { id: number };
    ledger.done(`project ${name}`, async () => {
      const { projects } = await rig.api.project.list.query();
      const isThere = projects.some((one) => one.id === id && one.name === name);
      if (isThere) await rig.api.project.remove.mutate({ id });
      return isThere;
    });
    if (before !== null) await rig.api.project.open.mutate({ id: before });
  }
}

/** Text of an SVF file that takes about so long to play. */
const svf = (seconds: number, filler = 0): Uint8Array =>
  strToU8(`STATE RESET;\nRUNTEST ${seconds} SEC;\n${'! filler\n'.repeat(filler)}STATE IDLE;\n`);

async function uploading({ rig, ledger, isOver, chance }: Hands): Promise<void> {
  for (let turn = 0; !isOver(); turn++) {
    const bytes = svf(0.1, 20_000 + chance.below(200_000));
    const name = `given ${Date.now()} ${turn}.svf`;
    const { id } = (await rig.upload(`svf?name=${encodeURIComponent(name)}`, bytes)) as { id: number };
    ledger.done(name, async () => {
      const { files } = await rig.api.bench.svfFiles.query();
      const found = files.find((one) => one.id === id && one.name === name && one.bytes === bytes.length);
      if (found) await rig.api.bench.removeSvfFile.mutate({ id });
      return found !== undefined;
    });
  }
}

async function filing({ rig, ledger, isOver, chance }: Hands): Promise<void> {
  for (let turn = 0; !isOver(); turn++) {
    const name = `table ${Date.now()} ${turn}.bin`;
    const bytes = Uint8Array.from({ length: 1 << 18 }, () => chance.below(256));
    const { id } = (await rig.upload(`images?for=flash&name=${encodeURIComponent(name)}`, bytes)) as { id: number };
    ledger.done(name, async () => {
      const isThere = (await rig.api.load.images.query()).some((one) => one.id === id && one.name === name);
      if (isThere) await rig.api.load.removeImage.mutate({ id });
      return isThere;
    });
  }
}

/** Some wait for longer than any silence that is taken for a loss. */
async function playing({ rig, isOver, chance }: Hands): Promise<void> {
  const { id } = (await rig.upload('svf?name=long.svf', svf(chance.pick([2, 2, 20])))) as { id: number };
  while (!isOver())
    if ((await rig.did({ kind: 'svf', file: id, device: null, goOn: false, pauseAt: null })) === null) return;
}

async function capturing({ rig, ledger, isOver }: Hands): Promise<void> {
  while (!isOver()) {
    const { id } = await rig.api.capture.arm.mutate({ recorder: 'main', when: 'state == 0 or state != 0', before: 8 });
    const ended = await rig.ended(id, 10_000);
    if (ended === null) return void (await rig.api.jobs.cancel.mutate({ id }));
    const kept = /^Capture (\d+):/.exec(ended.message);
    if (ended.state !== 'done' || !kept) continue;
    ledger.done(ended.message, async () => {
      const one = { id: Number(kept[1]) };
      const isThere = (await rig.api.capture.read.query(one)).about.samples > 0;
      if (isThere) await rig.api.capture.remove.mutate(one);
      return isThere;
    });
  }
}

async function moving({ rig, isOver }: Hands): Promise<void> {
  for (let value = 0n; !isOver(); value = (value + 1n) % 4n)
    await rig.api.drive.move.mutate({ set: { 'lockhouse.level_trim': value } });
}

const builds = job({ kind: 'build' }, ({ rig, ledger }, message) => {
  const print = /^Build ([0-9a-f]{8})/.exec(message)?.[1] ?? '?';
  ledger.done(message, async () =>
    (await rig.api.design.builds.query()).some(({ fingerprint }) => fingerprint.startsWith(print)),
  );
});

const writes = async ({ rig, ledger, isOver }: Hands) => {
  for (let turn = 0; !isOver(); turn++) {
    // Other data each time: the same again would write nothing.
    const serial = `T${Date.now() % 1e9}`;
    await rig.api.keep.choose.mutate({ layout: LAYOUT, replaceGolden: turn % 2 === 0, values: { serial } });
    ledger.flash.sent = serial;
    const ended = await rig.did({ kind: 'keep', boot: false }, 120_000);
    if (ended === null) return;
    if (ended.state !== 'done') continue;
    Object.assign(ledger.flash, { written: serial, sent: null });
    ledger.done(`flash: ${ended.message}`, async () => true);
  }
};

/** All kinds of long work, and of work that is answered at once but must not be lost. */
export const OPERATIONS: readonly Operation[] = [
  { name: 'typing', milliseconds: 1500, run: typing },
  { name: 'planning', milliseconds: 1500, run: planning },
  { name: 'importing', milliseconds: 2000, run: importing },
  { name: 'uploading', milliseconds: 2000, run: uploading },
  { name: 'filing', milliseconds: 2000, run: filing },
  { name: 'building', milliseconds: 2000, run: builds },
  { name: 'loading', milliseconds: 1500, run: job({ kind: 'load' }) },
  {
    name: 'staging',
    milliseconds: 2000,
    run: job({ kind: 'stage', step: { device: null, source: { kind: 'build' } } }),
  },
  { name: 'writing', milliseconds: 8000, run: writes },
  {
    name: 'reading',
    milliseconds: 3000,
    run: job({ kind: 'flash-step', step: { what: 'crc', address: 0, length: 1 << 18 } }),
  },
  { name: 'playing', milliseconds: 2500, run: playing },
  { name: 'capturing', milliseconds: 2500, run: capturing },
  { name: 'moving', milliseconds: 1500, run: moving },
  { name: 'sweeping', milliseconds: 2500, run: job({ kind: 'sweep' }) },
  { name: 'scanning', milliseconds: 1000, run: job({ kind: 'scan' }) },
  { name: 'simulating', milliseconds: 2000, run: job({ kind: 'vectors', file: 'vectors/chamber.vectors.csv' }) },
];
