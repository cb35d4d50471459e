'use client';
import { counted } from '../../../core/words.ts';
import { useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { X } from 'lucide-react';
import { type Dispatch, type SetStateAction, useRef, useState } from 'react';
import { toast } from 'sonner';
import { BLOCK_ROLES, type Layout, type LayoutBlock, readLayout } from '../../../core/images/index.ts';
import { item } from '../../../core/lists.ts';
import {
  api,
  Button,
  Empty,
  IconButton,
  quantity,
  Section,
  Select,
  TextInput,
  upload,
  useAct,
  useFiles,
  useImages,
  useLive,
  useSaveFile,
  FileButton,
} from '../../shared/index.ts';
import { Strip } from '../strip.tsx';
import {
  emptyLayout,
  extentOf,
  freeAddress,
  placesOf,
  problemsOf,
  type Sources,
  sourceOf,
  withBlock,
  withSource,
} from './edit.ts';
import type { PlaceProblem } from '../../../core/images/index.ts';
import type { KeepChoice, WorkState } from '../../../server/index.ts';

const NEW = 'flash.layout.json';

/** Named layouts of the project: a strip to scale whose blocks are dragged, and the same as a list. */
export function LayoutView() {
  const state = useLive('keepChoice');
  const files = useFiles();
  const layouts = (files.data ?? []).filter(({ name }) => name.endsWith('.layout.json'));
  const [asked, setAsked] = useState<string | null>(null);
  const file = layouts.find(({ name }) => name === (asked ?? state?.keepChoice.layout)) ?? layouts[0];
  const cache = useQueryClient();
  const { act } = useAct();
  const create = async () => {
    const name = layouts.some((one) => one.name === NEW) ? `flash-${layouts.length + 1}.layout.json` : NEW;
    const text = JSON.stringify(
      {
        ...emptyLayout(name.replace('.layout.json', '')),
        blocks: [{ name: 'image', role: 'image', address: 0, build: true }],
      },
      null,
      2,
    );
    if (await act(() => api.project.addFiles.mutate({ files: [{ name, text: `${text}\n` }] }))) {
      await cache.invalidateQueries({ queryKey: ['files'] });
      setAsked(name);
    }
  };
  if (files.isPending) return null;
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
        {file && (
          <Select
            size="normal"
            aria-label="Layout"
            value={file.name}
            onChange={(event) => setAsked(event.target.value)}
          >
            {layouts.map(({ name }) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </Select>
        )}
        <Button onClick={create}>New layout</Button>
      </div>
      {file ? (
        <Opened key={file.name} name={file.name} text={file.text} />
      ) : (
        <Empty>
          The project has no layout. Make one to keep a golden image, an update and data of the board in one flash.
        </Empty>
      )}
    </>
  );
}

function Opened({ name, text }: { readonly name: string; readonly text: string }) {
  const read = readLayout(name, text);
  if (!read.ok)
    return (
      <p className="border-bad border-l-4 bg-raised px-3 py-2">
        {read.error.message} Correct it under Design, Sources.
      </p>
    );
  return <Editor name={name} saved={read.value} />;
}

function Editor({ name, saved }: { readonly name: string; readonly saved: Layout }) {
  const state = useLive('usable', 'project', 'keepChoice');
  const saving = useSaveFile();
  const cache = useQueryClient();
  const { act } = useAct();
  const [layout, setLayout] = useState(saved);
  const [undo, setUndo] = useState<readonly Layout[]>([]);
  const moving = useRef(false);
  const images = useImages();
  const choice = state?.keepChoice;
  const sources: Sources = { part: state?.usable?.part ?? state?.project?.part ?? null, images };
  const problems = problemsOf(layout, sources);
  const wrong = new Set(problems.filter(({ severity }) => severity === 'error').flatMap(({ at }) => at));
  const changed = JSON.stringify(layout) !== JSON.stringify(saved);
  const change = (next: Layout) => {
    setUndo((old) => [...old, layout]);
    setLayout(next);
  };
  /** What moves or is typed shows at once, and is one step of undo until it has ended. */
  const move = (next: Layout) => {
    if (moving.current) return setLayout(next);
    moving.current = true;
    change(next);
  };
  const moved = () => {
    moving.current = false;
  };
  const add = (block: Omit<LayoutBlock, 'address' | 'byteOrder'>) =>
    change({
      ...layout,
      blocks: [...layout.blocks, { address: freeAddress(layout, sources), byteOrder: 'little', ...block }],
    });
  const save = async () => {
    saving.keep(name, `${JSON.stringify(layout, null, 2)}\n`);
    if (!(await saving.save(name))) return;
    toast.success(`${name} saved.`);
  };
  const addFile = async (file: File) => {
    const added = await act(() =>
      upload<{ id: number; format: string; warnings: readonly string[] }>('/api/images?for=flash', file),
    );
    if (!added) return;
    await cache.invalidateQueries({ queryKey: ['images'] });
    add({
      name: file.name.slice(0, 60),
      role:
        added.format === 'nbits' && !layout.blocks.some(({ role }) => role === 'golden' || role === 'image')
          ? 'golden'
          : added.format === 'nbits'
            ? 'update'
            : 'data',
      file: file.name,
    });
    toast.success(`${file.name}: ${added.format}.${added.warnings[0] ? ` ${added.warnings[0]}` : ''}`);
  };
  return (
    <>
      <Drawing layout={layout} sources={sources} wrong={wrong} move={move} moved={moved} problems={problems} />
      <BlockTools
        changed={changed}
        save={save}
        undo={undo}
        setLayout={setLayout}
        layout={layout}
        setUndo={setUndo}
        add={add}
        addFile={addFile}
        state={state}
        name={name}
        choice={choice}
        act={act}
      />
      <Blocks layout={layout} sources={sources} wrong={wrong} onChange={change} onTyping={move} onTyped={moved} />
    </>
  );
}

interface BlockToolsProps {
  readonly changed: boolean;
  readonly save: () => Promise<void>;
  readonly undo: readonly Layout[];
  readonly setLayout: Dispatch<SetStateAction<Layout>>;
  readonly layout: Layout;
  readonly setUndo: Dispatch<SetStateAction<readonly Layout[]>>;
  readonly add: (block: Omit<LayoutBlock, 'address' | 'byteOrder'>) => void;
  readonly addFile: (file: File) => Promise<void>;
  readonly state: Pick<WorkState, 'project' | 'keepChoice' | 'usable'> | null;
  readonly name: string;
  readonly choice: KeepChoice | undefined;
  readonly act: <T>(call: () => Promise<T>) => Promise<T | null>;
}

function BlockTools({
  changed,
  save,
  undo,
  setLayout,
  layout,
  setUndo,
  add,
  addFile,
  state,
  name,
  choice,
  act,
}: BlockToolsProps) {
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2">
      <Button look="main" disabled={!changed} onClick={save}>
        Save layout
      </Button>
      <Button
        disabled={undo.length === 0}
        onClick={() => {
          setLayout(undo.at(-1) ?? layout);
          setUndo(undo.slice(0, -1));
        }}
      >
        Undo
      </Button>
      <Button onClick={() => add({ name: `block ${layout.blocks.length + 1}`, role: 'data', text: 'text' })}>
        Add a block
      </Button>
      <FileButton label="File for a block" look="plain" testId="layout-file" onFile={(file) => void addFile(file)}>
        Add a file
      </FileButton>
      <Button
        look="quiet"
        disabled={changed || state?.keepChoice.layout === name}
        onClick={() => choice && act(() => api.keep.choose.mutate({ layout: name, image: null }))}
      >
        {state?.keepChoice.layout === name ? 'Keep writes this layout' : 'Let Keep write this layout'}
      </Button>
    </div>
  );
}

interface DrawingProps {
  readonly layout: Layout;
  readonly sources: Sources;
  readonly wrong: Set<number>;
  readonly move: (next: Layout) => void;
  readonly moved: () => void;
  readonly problems: PlaceProblem[];
}

function Drawing({ layout, sources, wrong, move, moved, problems }: DrawingProps) {
  return (
    <Section
      title={layout.name}
      aside={
        `${quantity(layout.size, 'B')}, ${quantity(layout.sectorBytes, 'B')} a sector; drag a block, it snaps to ` +
        'sectors'
      }
    >
      <Strip
        size={layout.size}
        sectorBytes={layout.sectorBytes}
        places={placesOf(layout, sources)}
        wrong={wrong}
        label={counted(layout.blocks.length, 'block')}
        onMove={(index, start) => {
          const offset = extentOf(item(layout.blocks, index), sources)?.[0] ?? 0;
          move(withBlock(layout, index, { address: Math.max(0, start - offset) }));
        }}
        onMoved={moved}
      />
      <ul className="mt-1 min-h-10 text-sm" data-testid="layout-problems">
        {problems.map(({ message, severity }) => (
          <li key={message} className={severity === 'error' ? 'text-bad' : 'text-doubt'}>
            {severity === 'error' ? 'Cannot be written: ' : ''}
            {message}
          </li>
        ))}
        {problems.length === 0 && <li className="text-good">Everything fits.</li>}
      </ul>
    </Section>
  );
}

interface BlocksProps {
  readonly layout: Layout;
  readonly sources: Sources;
  readonly wrong: ReadonlySet<number>;
  readonly onChange: (next: Layout) => void;
  readonly onTyping: (next: Layout) => void;
  readonly onTyped: () => void;
}

function Blocks({ layout, sources, wrong, onChange, onTyping, onTyped }: BlocksProps) {
  const field = 'h-7 border border-line bg-raised px-1 text-sm';
  const names = [...new Set(sources.images.map(({ name }) => name))];
  const put = (i: number, change: Partial<LayoutBlock>) => onChange(withBlock(layout, i, change));
  return (
    <table
      className="w-full border-collapse border border-line bg-raised text-left text-sm"
      data-testid="layout-blocks"
    >
      <thead className="bg-well">
        <tr>
          {['Name', 'Role', 'Bytes from', 'Begins at', 'Ends at', 'Size', ''].map((head) => (
            <th key={head} className={clsx('px-2 py-1', (head === 'Ends at' || head === 'Size') && 'text-right')}>
              {head === '' ? <span className="sr-only">What can be done</span> : head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {layout.blocks.map((block, i) => {
          const extent = extentOf(block, sources);
          const end = extent && block.address + extent[1];
          const source = sourceOf(block);
          return (
            <BlockRow
              // biome-ignore lint/suspicious/noArrayIndexKey: a block is its place in the list
              key={i}
              i={i}
              wrong={wrong}
              field={field}
              block={block}
              onTyping={onTyping}
              layout={layout}
              onTyped={onTyped}
              put={put}
              source={source}
              onChange={onChange}
              names={names}
              end={end}
              extent={extent}
            />
          );
        })}
      </tbody>
    </table>
  );
}

interface BlockRowProps {
  readonly i: number;
  readonly wrong: ReadonlySet<number>;
  readonly field: 'h-7 border border-line bg-raised px-1 text-sm';
  readonly block: LayoutBlock;
  readonly onTyping: (next: Layout) => void;
  readonly layout: Layout;
  readonly onTyped: () => void;
  readonly put: (i: number, change: Partial<LayoutBlock>) => void;
  readonly source: string;
  readonly onChange: (next: Layout) => void;
  readonly names: string[];
  readonly end: number | null;
  readonly extent: readonly [start: number, end: number] | null;
}

function BlockRow({
  i,
  wrong,
  field,
  block,
  onTyping,
  layout,
  onTyped,
  put,
  source,
  onChange,
  names,
  end,
  extent,
}: BlockRowProps) {
  return (
    <tr className={clsx('border-line border-t', wrong.has(i) && 'bg-bad/10')}>
      <td className="px-2 py-1">
        <Typed
          label={`Name of block ${i + 1}`}
          className={`${field} w-40`}
          value={block.name}
          read={(text) => (text === '' ? null : text.slice(0, 60))}
          wrong="A block has a name."
          onTyping={(name) => onTyping(withBlock(layout, i, { name }))}
          onTyped={onTyped}
        />
      </td>
      <td className="px-2">
        <Select aria-label={`Role of block ${i + 1}`} value={block.role} onPick={(role) => put(i, { role })}>
          {BLOCK_ROLES.map((role) => (
            <option key={role}>{role}</option>
          ))}
        </Select>
      </td>
      <BlockSource i={i} source={source} onChange={onChange} layout={layout} names={names} block={block} put={put} />
      <td className="px-2">
        <Typed
          label={`Address of block ${i + 1}`}
          className={`${field} code w-24`}
          value={hex(block.address)}
          read={(text) => (/^(0x[0-9a-f]+|\d+)$/i.test(text) ? Number(text) : null)}
          wrong="An address is a number, such as 0x100000."
          onTyping={(address) => onTyping(withBlock(layout, i, { address }))}
          onTyped={onTyped}
        />
      </td>
      <td className="code px-2 text-right">{end === null ? 'unknown' : hex(Math.max(block.address, end - 1))}</td>
      <td className="tabular px-2 text-right">{extent ? `${(extent[1] - extent[0]).toLocaleString('en')} B` : ''}</td>
      <td className="px-1">
        <IconButton
          isRemoval
          label={`Delete block ${i + 1}`}
          onClick={() => onChange({ ...layout, blocks: layout.blocks.filter((_, k) => k !== i) })}
        >
          <X className="size-4" />
        </IconButton>
      </td>
    </tr>
  );
}

interface BlockSourceProps {
  readonly i: number;
  readonly source: string;
  readonly onChange: (next: Layout) => void;
  readonly layout: Layout;
  readonly names: string[];
  readonly block: LayoutBlock;
  readonly put: (i: number, change: Partial<LayoutBlock>) => void;
}

function BlockSource({ i, source, onChange, layout, names, block, put }: BlockSourceProps) {
  return (
    <td className="px-2">
      <Select
        className="max-w-48"
        aria-label={`Source of block ${i + 1}`}
        value={source}
        onChange={(event) =>
          onChange({
            ...layout,
            blocks: layout.blocks.map((one, k) => (k === i ? withSource(one, event.target.value) : one)),
          })
        }
      >
        <option value="build">newest build</option>
        <option value="text">text</option>
        <option value="hex">hexadecimal digits</option>
        <option value="fields">board data</option>
        {names.map((file) => (
          <option key={file} value={`file:${file}`}>
            {file}
          </option>
        ))}
        {block.file !== undefined && !names.includes(block.file) && (
          <option value={source}>{block.file} (not here)</option>
        )}
      </Select>
      {(source === 'text' || source === 'hex') && (
        <TextInput
          isCode
          className="ml-1 w-32"
          key={source}
          aria-label={`Content of block ${i + 1}`}
          defaultValue={source === 'text' ? block.text : block.hex}
          onBlur={(event) =>
            source === 'text'
              ? put(i, { text: event.target.value })
              : /^([0-9a-fA-F]{2}\s*)+$/.test(event.target.value)
                ? put(i, { hex: event.target.value })
                : toast.error('Hexadecimal digits come in pairs.')
          }
        />
      )}
    </td>
  );
}

interface TypedProps<T> {
  readonly label: string;
  readonly className: string;
  readonly value: string;
  /** What a text says; null while it says nothing that can be taken. */
  readonly read: (text: string) => T | null;
  /** Said of a text that is left as one that cannot be taken. */
  readonly wrong: string;
  readonly onTyping: (value: T) => void;
  readonly onTyped: () => void;
}

/** A field whose value is taken with every key that leaves it one that can be taken. */
function Typed<T>({ label, className, value, read, wrong, onTyping, onTyped }: TypedProps<T>) {
  const [text, setText] = useState<string | null>(null);
  return (
    <TextInput
      aria-label={label}
      className={className}
      value={text ?? value}
      onChange={(event) => {
        setText(event.target.value);
        const taken = read(event.target.value);
        if (taken !== null) onTyping(taken);
      }}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      onBlur={() => {
        if (text !== null && read(text) === null) toast.error(wrong);
        setText(null);
        onTyped();
      }}
    />
  );
}

const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;
