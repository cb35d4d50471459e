import { partNamed, partWithIdcode } from '../../core/families/index.ts';
import {
  boardData,
  imageOf,
  type Layout,
  type LayoutBlock,
  type MemoryImage,
  readLayout,
  writtenOut,
} from '../../core/images/index.ts';
import type { KeepBlock, KeepRequest } from '../../core/operations/index.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { item } from '../../core/lists.ts';
import { problem } from './problems.ts';
import type { BlockFacts } from '../threads/index.ts';
import type { BlockSummary } from '../board/index.ts';
import { ALONE, type KeepChoice } from '../store/index.ts';
import type { Given } from './needs.ts';
import { usableBuild } from '../project/index.ts';

type Needs = Pick<Given, 'board' | 'store' | 'facts' | 'project' | 'reading'>;

type KeepSubject = KeepRequest & {
  /** Of each block. */
  readonly facts: readonly BlockFacts[];
  readonly choice: KeepChoice;
  readonly layout: Layout | null;
  /** Name of the layout or file; null for the newest build alone. */
  readonly file: string | null;
};

/** What is to be written, as was chosen: blocks with their bytes, and the FPGA that will boot from them. */
export async function keepSubject(on: Needs): Promise<Result<KeepSubject>> {
  const choice = (await on.facts.get('keepChoice')) ?? ALONE;
  const [stale, expects] = [await on.project.staleEdits(), await on.project.boardFlash()];
  if (choice.image) return fileSubject(on, choice, choice.image, expects);
  if (choice.layout === null) {
    const usable = await usableBuild(on);
    if (!usable.ok) return usable;
    const { part, stream } = usable.value.bitstream;
    return ok({
      fpga: part,
      device: null,
      blocks: [{ name: 'newest build', role: 'image', address: 0, bytes: stream }],
      facts: await on.reading.ask('facts', [stream]),
      stale,
      expects,
      replaceGolden: false,
      choice,
      layout: null,
      file: null,
    });
  }
  const layout = await layoutNamed(on, choice.layout);
  if (!layout.ok) return layout;
  const blocks: KeepBlock[] = [];
  for (const block of layout.value.blocks) {
    const image = await imageOfBlock(on, block, choice);
    if (!image.ok) return image;
    for (const { start, bytes } of image.value.segments)
      blocks.push({ name: block.name, role: block.role, address: block.address + start, bytes });
  }
  const facts = await factsOf(on, blocks);
  const fpga = await fpgaOf(on, blocks, facts);
  if (!fpga.ok) return fpga;
  return ok({
    fpga: fpga.value,
    device: null,
    blocks,
    facts,
    stale: layout.value.blocks.some((block) => block.build) ? stale : [],
    expects,
    replaceGolden: choice.replaceGolden,
    choice,
    layout: layout.value,
    file: choice.layout,
  });
}

/** A memory file at the addresses it carries. */
async function fileSubject(
  on: Needs,
  choice: KeepChoice,
  { id, name, at }: NonNullable<KeepChoice['image']>,
  expects: string | null,
): Promise<Result<KeepSubject>> {
  const image = await on.store.files.image(id);
  if (!image) return fail(problem('no-image (fileSubject)', { name }));
  const blocks = await on.reading.ask('blocks', { name, bytes: image.bytes, at });
  const facts = await factsOf(on, blocks);
  const fpga = await fpgaOf(on, blocks, facts);
  return fpga.ok
    ? ok({
        fpga: fpga.value,
        device: null,
        blocks,
        facts,
        stale: [],
        expects,
        replaceGolden: choice.replaceGolden,
        choice,
        layout: null,
        file: name,
      })
    : fpga;
}

async function layoutNamed(on: Needs, name: string): Promise<Result<Layout>> {
  const project = await on.store.projects.current();
  const file = project ? (await on.store.projects.files(project.id)).find((one) => one.name === name) : undefined;
  return file ? readLayout(file.name, file.text) : fail(problem('no-layout', { name }));
}

/** The bytes of a block from address 0 on, unless its file says otherwise. */
async function imageOfBlock(on: Needs, block: LayoutBlock, { values }: KeepChoice): Promise<Result<MemoryImage>> {
  if (block.build) {
    const usable = await usableBuild(on);
    return usable.ok ? ok(imageOf(usable.value.bitstream.stream)) : usable;
  }
  if (block.fields) {
    const built = boardData(block.fields, block.byteOrder, values);
    return built.ok ? ok(imageOf(built.value)) : built;
  }
  if (block.file !== undefined) {
    const bytes = await on.store.files.imageNamed(block.file);
    return bytes
      ? ok(await on.reading.ask('placed', { name: block.file, bytes }))
      : fail(problem('no-image (imageOfBlock)', { name: block.name, file: block.file }));
  }
  return ok(imageOf(writtenOut(block)));
}

const factsOf = (on: Needs, blocks: readonly KeepBlock[]): Promise<readonly BlockFacts[]> =>
  on.reading.ask(
    'facts',
    blocks.map(({ bytes }) => bytes),
  );

/** The part that images are for; without images the project's own. */
async function fpgaOf(on: Needs, blocks: readonly KeepBlock[], facts: readonly BlockFacts[]): Promise<Result<string>> {
  const project = await on.store.projects.current();
  const read = project ? await on.store.projects.open(project.id) : null;
  const own = read?.ok ? read.value.file.part : null;
  const idcode = facts.find((one, i) => blocks[i]?.role !== 'data' && one.idcode !== null)?.idcode ?? undefined;
  const ownPart = own === null ? undefined : partNamed(own);
  // Twins share an IDCODE: the project's word decides between them.
  const named = idcode === undefined ? undefined : ownPart?.idcode === idcode ? ownPart : partWithIdcode(idcode);
  const name = named?.name ?? own;
  return name === null ? fail(problem('no-part')) : ok(name);
}

export const summariesOf = ({ blocks, facts }: KeepSubject): BlockSummary[] =>
  blocks.map(({ name, role, address, bytes }, i) => {
    const { fingerprint, sha256 } = item(facts, i);
    return { name, role, address, bytes: bytes.length, sha256, fingerprint: role === 'data' ? null : fingerprint };
  });
