'use client';
import { own } from '../../../core/lists.ts';
import { counted } from '../../../core/words.ts';
import { X } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import {
  boardData,
  boardRows,
  type DataField,
  type DataValues,
  FIELD_TYPES,
  type Layout,
  type LayoutBlock,
  readLayout,
} from '../../../core/images/index.ts';
import type { Problem, Result } from '../../../core/result.ts';
import {
  Button,
  DataTable,
  Empty,
  ProblemNote,
  Section,
  useAct,
  useFiles,
  useSaveFile,
  useLive,
  api,
  TextInput,
  Select,
  IconButton,
  FileButton,
} from '../../shared/index.ts';
import type { KeepChoice } from '../../../server/index.ts';
import type { SourceFile } from '../../shared/index.ts';

/** Values of this board: by hand, or a row of a table. They go into the data blocks of the layout that Keep writes. */
export function BoardDataView() {
  const state = useLive('keepChoice');
  const files = useFiles();
  const name = state?.keepChoice.layout ?? null;
  const file = (files.data ?? []).find((one) => one.name === name);
  const read = file ? readLayout(file.name, file.text) : null;
  if (!file || !read)
    return (
      <Empty>
        Keep writes the newest build alone. Choose a layout under Write, with a block whose bytes come from board data.
      </Empty>
    );
  if (!read.ok) return <ProblemNote problem={read.error} />;
  const blocks = read.value.blocks.flatMap((block, index) =>
    block.fields ? [{ block, index, fields: block.fields }] : [],
  );
  if (blocks.length === 0)
    return (
      <Empty>{file.name} has no block of board data. Add one under Layout and take its bytes from board data.</Empty>
    );
  return (
    <>
      {blocks.map(({ block, index, fields }) => (
        <Block key={index} file={file.name} layout={read.value} index={index} block={block} fields={fields} />
      ))}
    </>
  );
}

interface BlockProps {
  readonly file: string;
  readonly layout: Layout;
  readonly index: number;
  readonly block: LayoutBlock;
  readonly fields: readonly DataField[];
}

function Block({ file, layout, index, block, fields }: BlockProps) {
  const choice = useLive('keepChoice')?.keepChoice;
  const { act } = useAct();
  const [rows, setRows] = useState<readonly DataValues[] | null>(null);
  const [trouble, setTrouble] = useState<Problem | null>(null);
  const tables = (useFiles().data ?? []).filter((one) => one.name.endsWith('.boards.csv'));
  if (!choice) return null;
  const put = (values: DataValues) => act(() => api.keep.choose.mutate({ values }));
  const table = (given: { readonly name: string; readonly text: string }) => {
    const found = boardRows(fields, given.text, given.name);
    setTrouble(found.ok ? null : found.error);
    setRows(found.ok ? found.value : null);
    if (found.ok) toast.success(`${given.name}: ${counted(found.value.length, 'board')}.`);
  };
  const built = boardData(fields, block.byteOrder, choice.values);
  return (
    <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
      <div className="min-w-0">
        <Values block={block} built={built} fields={fields} choice={choice} put={put} />
        <Fields file={file} layout={layout} index={index} fields={fields} />
      </div>
      <Section title="A table of boards" aside="first line: the names of the fields">
        <BoardsFile table={table} tables={tables} fields={fields} />
        {trouble && <ProblemNote problem={trouble} />}
        {rows ? (
          <DataTable
            name="boards"
            rows={rows}
            empty="The table is empty."
            chosen={(row) => fields.every(({ name }) => (own(row, name) ?? '') === (own(choice.values, name) ?? ''))}
            onRow={put}
            columns={fields.map(({ name }) => ({
              id: name,
              header: name,
              accessorFn: (row: DataValues) => row[name] ?? '',
            }))}
          />
        ) : (
          !trouble && <Empty>Read a table and choose the row of the board on the desk.</Empty>
        )}
      </Section>
    </div>
  );
}

interface BoardsFileProps {
  readonly table: (given: { readonly name: string; readonly text: string }) => void;
  readonly tables: SourceFile[];
  readonly fields: readonly DataField[];
}

function BoardsFile({ table, tables, fields }: BoardsFileProps) {
  return (
    <div className="mb-2 flex items-center gap-2">
      {tables.map((one) => (
        <Button key={one.name} onClick={() => table(one)}>
          {one.name}
        </Button>
      ))}
      <FileButton
        label="Table of boards"
        accept=".csv,.tsv,.txt"
        look="plain"
        testId="boards-file"
        onFile={(given) => void given.text().then((text) => table({ name: given.name, text }))}
      >
        Read a CSV file
      </FileButton>
      <Button look="quiet" onClick={() => download(fields)}>
        Save an empty one
      </Button>
    </div>
  );
}

interface ValuesProps {
  readonly block: LayoutBlock;
  readonly built: Result<Uint8Array<ArrayBufferLike>>;
  readonly fields: readonly DataField[];
  readonly choice: KeepChoice;
  readonly put: (values: DataValues) => Promise<{ readonly done: true } | null>;
}

function Values({ block, built, fields, choice, put }: ValuesProps) {
  return (
    <Section
      title={`${block.name}, at 0x${block.address.toString(16).toUpperCase()}`}
      aside={built.ok ? `${counted(built.value.length, 'byte')} with CRC-32, ${block.byteOrder}-endian` : undefined}
    >
      <div data-testid="board-values">
        {fields.map((field) => (
          <label key={field.name} className="flex items-center gap-2 border-line border-b py-1 text-sm">
            <span className="w-44 shrink-0">{field.name}</span>
            <span className="w-20 shrink-0 text-quiet">
              {field.type}
              {field.length === undefined ? '' : ` ${field.length} B`}
            </span>
            <TextInput
              isCode
              className="min-w-0 flex-1"
              key={own(choice.values, field.name)}
              aria-label={`Value of ${field.name}`}
              defaultValue={own(choice.values, field.name) ?? ''}
              placeholder={field.value ?? 'no value yet'}
              onBlur={(event) =>
                event.target.value !== (own(choice.values, field.name) ?? '') &&
                put({ [field.name]: event.target.value })
              }
            />
          </label>
        ))}
      </div>
      {built.ok ? (
        <pre
          className="code mt-2 whitespace-pre-wrap break-all border border-line bg-raised p-2 text-xs"
          data-testid="board-bytes"
        >
          {dump(built.value)}
        </pre>
      ) : (
        <div className="mt-2">
          <ProblemNote problem={built.error} />
        </div>
      )}
    </Section>
  );
}

/** What the block consists of: kept in the layout. */
function Fields({ file, layout, index, fields }: Omit<BlockProps, 'block'>) {
  const saving = useSaveFile();
  const save = async (next: readonly DataField[]) => {
    const changed = {
      ...layout,
      blocks: layout.blocks.map((one, i) => (i === index ? { ...one, fields: next } : one)),
    };
    saving.keep(file, `${JSON.stringify(changed, null, 2)}\n`);
    await saving.save(file);
  };
  const put = (i: number, change: Partial<DataField>) =>
    save(fields.map((field, k) => (k === i ? { ...field, ...change } : field)));
  return (
    <Section title="What the block consists of" aside="in this order, then the CRC-32 of all of it">
      <table className="w-full text-left text-sm">
        <thead>
          <tr className="text-quiet">
            {['Name', 'Type', 'Bytes', 'Unless given', ''].map((head) => (
              <th key={head} className="font-normal">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {fields.map((field, i) => {
            const sized = field.type === 'text' || field.type === 'hex';
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: the order is what a field is
              <FieldRow key={i} i={i} field={field} put={put} sized={sized} fields={fields} save={save} />
            );
          })}
        </tbody>
      </table>
      <Button
        look="quiet"
        className="px-0!"
        onClick={() => save([...fields, { name: `field ${fields.length + 1}`, type: 'u16' }])}
      >
        Add a field
      </Button>
    </Section>
  );
}

interface FieldRowProps {
  readonly i: number;
  readonly field: DataField;
  readonly put: (i: number, change: Partial<DataField>) => Promise<void>;
  readonly sized: boolean;
  readonly fields: readonly DataField[];
  readonly save: (next: readonly DataField[]) => Promise<void>;
}

function FieldRow({ i, field, put, sized, fields, save }: FieldRowProps) {
  return (
    <tr className="border-line border-t">
      <td className="py-1">
        <TextInput
          size="tiny"
          className="w-36"
          key={field.name}
          aria-label={`Name of field ${i + 1}`}
          defaultValue={field.name}
          onBlur={(event) =>
            event.target.value.trim() !== '' &&
            event.target.value !== field.name &&
            put(i, { name: event.target.value.trim() })
          }
        />
      </td>
      <td>
        <Select
          size="tiny"
          aria-label={`Type of field ${i + 1}`}
          value={field.type}
          onPick={(type) => {
            void put(i, {
              type,
              length: type === 'text' || type === 'hex' ? (field.length ?? 8) : undefined,
            });
          }}
        >
          {FIELD_TYPES.map((type) => (
            <option key={type}>{type}</option>
          ))}
        </Select>
      </td>
      <td>
        {sized && (
          <TextInput
            size="tiny"
            className="w-16"
            key={field.length}
            aria-label={`Length of field ${i + 1}`}
            type="number"
            min={1}
            max={4096}
            defaultValue={field.length}
            onBlur={(event) =>
              Number(event.target.value) >= 1 &&
              Number(event.target.value) !== field.length &&
              put(i, { length: Number(event.target.value) })
            }
          />
        )}
      </td>
      <td>
        <TextInput
          size="tiny"
          isCode
          className="w-24"
          key={field.value}
          aria-label={`Value of field ${i + 1} unless given`}
          defaultValue={field.value ?? ''}
          onBlur={(event) =>
            event.target.value !== (field.value ?? '') &&
            put(i, { value: event.target.value === '' ? undefined : event.target.value })
          }
        />
      </td>
      <td>
        <IconButton
          isRemoval
          label={`Delete field ${i + 1}`}
          disabled={fields.length === 1}
          onClick={() => save(fields.filter((_, k) => k !== i))}
        >
          <X className="size-4" />
        </IconButton>
      </td>
    </tr>
  );
}

const dump = (bytes: Uint8Array): string =>
  [...bytes].map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');

function download(fields: readonly DataField[]): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(
    new Blob(
      [`${fields.map(({ name }) => (/[,"\n]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name)).join(',')}\n`],
      { type: 'text/csv' },
    ),
  );
  link.download = 'boards.csv';
  link.click();
  URL.revokeObjectURL(link.href);
}
