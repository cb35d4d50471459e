'use client';
import { useQueryClient } from '@tanstack/react-query';
import { FileInput } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { readLayout } from '../../../core/images/index.ts';
import type { ImageRow, KeepChange, KeepChoice } from '../../../server/index.ts';
import { printsOf } from '../chosen.ts';
import {
  upload,
  dateTime,
  Empty,
  Fact,
  FileButton,
  Section,
  shortPrint,
  useAct,
  useFiles,
  useImages,
  useLatestJob,
  useLive,
  api,
  Select,
  TextInput,
  Checkbox,
  Field,
} from '../../shared/index.ts';
import type { SourceFile } from '../../shared/index.ts';
const NEWEST = '';
const hex = (address: number): string => `0x${address.toString(16).toUpperCase()}`;

/**
 * What is to be written: the newest build alone, a layout of the project, or a memory file at the addresses it carries.
 */
export function Chosen() {
  const state = useLive('keepChoice', 'usable');
  const cache = useQueryClient();
  const { act } = useAct();
  const images = useImages();
  const layouts = (useFiles().data ?? []).filter(({ name }) => name.endsWith('.layout.json'));
  const choice = state?.keepChoice;
  const busy = useLatestJob('keep', 'power', 'flash')?.endedAt === null;
  if (!choice) return null;
  const file = layouts.find(({ name }) => name === choice.layout);
  const layout = file ? readLayout(file.name, file.text) : null;
  const image = images.find(({ id }) => id === choice.image?.id);
  const put = (change: KeepChange) => act(() => api.keep.choose.mutate(change));
  const choose = (key: string) => {
    const row = images.find(({ id }) => key === `file ${id}`);
    return put({
      layout: row || key === NEWEST ? null : key,
      image: row ? { id: row.id, name: row.name, at: 0 } : null,
    });
  };
  const add = async (given: File) => {
    const added = await act(() => upload<{ id: number; warnings: readonly string[] }>('/api/images?for=flash', given));
    if (!added) return;
    await cache.invalidateQueries({ queryKey: ['images'] });
    await put({ layout: null, image: { id: added.id, name: given.name, at: 0 } });
    for (const warning of added.warnings) toast.info(`${given.name}: ${warning}`);
  };
  const prints = printsOf(choice, state?.usable?.fingerprint ?? null, layout?.ok ? layout.value : null, images);
  return (
    <Section title="What would be written">
      <Choice
        busy={busy}
        choice={choice}
        choose={choose}
        layouts={layouts}
        file={file}
        images={images}
        image={image}
        add={add}
        prints={prints}
        put={put}
      />
      {choice.layout === null && !choice.image && <NewestBuild />}
      {choice.image && image && (
        <MemoryFile
          key={image.id}
          image={image}
          at={choice.image.at}
          busy={busy}
          onAt={(at) => put({ image: { id: image.id, name: image.name, at } })}
        />
      )}
      {layout?.ok && (
        <dl>
          {layout.value.blocks.map(({ name, role, address }) => (
            <Fact key={`${name} ${address}`} name={name} code>{`${role}, ${hex(address)}`}</Fact>
          ))}
        </dl>
      )}
      {layout && !layout.ok && <p className="text-bad text-sm">{layout.error.message}</p>}
      {prints.length > 0 && <RunsNow prints={prints} />}
    </Section>
  );
}

interface ChoiceProps {
  readonly busy: boolean;
  readonly choice: KeepChoice;
  readonly choose: (key: string) => Promise<{ readonly done: true } | null>;
  readonly layouts: SourceFile[];
  readonly file: SourceFile | undefined;
  readonly images: readonly ImageRow[];
  readonly image: ImageRow | undefined;
  readonly add: (given: File) => Promise<void>;
  readonly prints: string[];
  readonly put: (change: Partial<KeepChoice>) => Promise<{ readonly done: true } | null>;
}

function Choice({ busy, choice, choose, layouts, file, images, image, add, prints, put }: ChoiceProps) {
  return (
    <div className="mb-2 flex flex-wrap items-center gap-3 text-sm">
      <Select
        className="max-w-72"
        aria-label="What to write"
        disabled={busy}
        value={choice.image ? `file ${choice.image.id}` : (choice.layout ?? NEWEST)}
        onChange={(event) => choose(event.target.value)}
      >
        <option value={NEWEST}>the newest build alone, at 0x0</option>
        {layouts.map(({ name }) => (
          <option key={name} value={name}>
            {name}
          </option>
        ))}
        {choice.layout !== null && !file && <option value={choice.layout}>{choice.layout} (gone)</option>}
        {images.map(({ id, name, added }) => (
          <option key={id} value={`file ${id}`}>
            {name}, {dateTime(added)}
          </option>
        ))}
        {choice.image && !image && <option value={`file ${choice.image.id}`}>{choice.image.name} (gone)</option>}
      </Select>
      <FileButton
        label="Memory file"
        accept=".hex,.s19,.s28,.s37,.srec,.bin,.nbits"
        look="plain"
        className="h-7 px-2!"
        disabled={busy}
        title="Intel HEX, S-record, plain bytes or .nbits, written at the addresses it carries"
        onFile={add}
      >
        <FileInput aria-hidden className="size-4" /> A memory file
      </FileButton>
      {choice.image && prints.length === 0 ? (
        <span className="text-quiet">Data alone: no boot is rehearsed after it.</span>
      ) : (
        <Field name="then">
          <Select
            aria-label="Rehearse by"
            disabled={busy}
            value={choice.rehearseBy}
            onPick={(rehearseBy) => put({ rehearseBy })}
          >
            <option value="power">power-cycle the board</option>
            <option value="reconfigure">pull the reconfigure wire</option>
          </Select>
        </Field>
      )}
      {choice.layout !== null && (
        <label className="flex items-center gap-1">
          <Checkbox
            disabled={busy}
            checked={choice.replaceGolden}
            onChange={(event) => put({ replaceGolden: event.target.checked })}
          />{' '}
          replace a golden image that stands
        </label>
      )}
    </div>
  );
}

function NewestBuild() {
  const usable = useLive('usable')?.usable ?? null;
  if (!usable) return <Empty>There is no bitstream yet. Build under Design, or take a memory file.</Empty>;
  return (
    <dl>
      <Fact name="Design">{usable.top}</Fact>
      <Fact name="Fingerprint" code>
        {shortPrint(usable.fingerprint)}
      </Fact>
      <Fact name="Built">{dateTime(usable.created)}</Fact>
    </dl>
  );
}

interface MemoryFileProps {
  readonly image: ImageRow;
  readonly at: number;
  readonly busy: boolean;
  readonly onAt: (at: number) => void;
}

const FORMATS: Readonly<Record<ImageRow['format'], string>> = {
  'intel-hex': 'Intel HEX',
  's-record': 'S-record',
  binary: 'plain bytes',
  nbits: 'bitstream',
};

/** A file as it would go into the flash. One of plain bytes carries no addresses, so it is said where it begins. */
function MemoryFile({ image: { format, start, end, fingerprint }, at, busy, onAt }: MemoryFileProps) {
  const [text, setText] = useState(hex(at));
  const isPlain = format === 'binary' || format === 'nbits';
  const take = () => {
    const wanted = /^(0x[0-9a-f]+|\d+)$/i.test(text) ? Number(text) : null;
    if (wanted === null) toast.error('An address is a number, such as 0x100000.');
    else if (wanted !== at) onAt(wanted);
    setText(hex(wanted ?? at));
  };
  return (
    <dl>
      <Fact name="Format">{FORMATS[format]}</Fact>
      {isPlain ? (
        <Fact name="Begins at">
          <TextInput
            isCode
            className="w-28"
            aria-label="Begins at"
            disabled={busy}
            value={text}
            onChange={(event) => setText(event.target.value)}
            onBlur={take}
            onKeyDown={(event) => event.key === 'Enter' && take()}
          />
        </Fact>
      ) : (
        <Fact name="Addresses" code>{`${hex(start)} to ${hex(Math.max(start, end - 1))}`}</Fact>
      )}
      {isPlain && <Fact name="Length">{(end - start).toLocaleString('en')} B</Fact>}
      {fingerprint !== null && (
        <Fact name="Fingerprint" code>
          {shortPrint(fingerprint)}
        </Fact>
      )}
    </dl>
  );
}

/** Whether the board would do after the next power-on what it does now. */
function RunsNow({ prints }: { readonly prints: readonly string[] }) {
  const running = useLive('running')?.running ?? null;
  const now = running?.fingerprint ?? null;
  const isSame = now !== null && prints.includes(now);
  return (
    <p className={`mt-1 text-sm ${running && !isSame ? 'text-doubt' : 'text-quiet'}`} data-testid="runs-now">
      {!running
        ? 'What runs was not asked, so it is not known whether this is what runs.'
        : now === null
          ? 'This is not what runs: the FPGA holds no design.'
          : isSame
            ? 'This is what runs.'
            : `This is not what runs: that is ${shortPrint(now)}. Try it on the board by Load first.`}
    </p>
  );
}
