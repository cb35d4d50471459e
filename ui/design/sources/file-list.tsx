'use client';
import { useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { FilePlus, Pencil, Trash2, Upload } from 'lucide-react';
import { type Dispatch, type RefObject, type SetStateAction, useRef, useState } from 'react';
import { toast } from 'sonner';
import type { Message } from '../../../core/hdl/index.ts';
import { api, Button, IconButton, RowButton, TextInput, useAct, useSaveFile, useWaiting } from '../../shared/index.ts';
import type { SourceFile } from '../../shared/index.ts';
import { readDropped } from './read-dropped.ts';

interface Props {
  readonly files: readonly SourceFile[];
  readonly chosen: string | null;
  readonly stale: readonly string[];
  readonly messages: readonly Message[];
  readonly onChoose: (name: string) => void;
}

type Editing = { readonly kind: 'new' } | { readonly kind: 'rename' } | { readonly kind: 'delete' } | null;

/** The files of the project. New ones by name, by choosing, or dropped onto the list. */
export function FileList({ files, chosen, stale, messages, onChoose }: Props) {
  const queries = useQueryClient();
  const { act } = useAct();
  const { save, drop } = useSaveFile();
  const [editing, setEditing] = useState<Editing>(null);
  const [over, setOver] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const refresh = () => queries.invalidateQueries({ queryKey: ['files'] });
  const add = async (list: readonly { name: string; text: string }[]) => {
    if (list.length > 0 && (await act(() => api.project.addFiles.mutate({ files: list })))) {
      await refresh();
      onChoose(list[0]?.name ?? '');
    }
  };
  const take = async (list: FileList_ | null) => {
    const { taken, refused, remarks } = await readDropped([...(list ?? [])]);
    for (const reason of refused) toast.error(reason);
    for (const remark of remarks) toast.info(remark);
    await add(taken);
  };
  const submit = async (name: string) => {
    if (editing?.kind === 'new') await add([{ name, text: '' }]);
    else if (
      editing?.kind === 'rename' &&
      chosen !== null &&
      (await save(chosen)) &&
      (await act(() => api.project.renameFile.mutate({ from: chosen, to: name })))
    ) {
      await refresh();
      onChoose(name);
    }
    setEditing(null);
  };
  const remove = async () => {
    if (chosen === null) return;
    if (await act(() => api.project.removeFile.mutate({ name: chosen }))) await drop(chosen);
    await refresh();
    setEditing(null);
  };
  return (
    <div className="flex min-h-0 flex-col">
      <Files
        over={over}
        setOver={setOver}
        take={take}
        files={files}
        messages={messages}
        onChoose={onChoose}
        chosen={chosen}
        stale={stale}
      />
      {editing?.kind === 'delete' ? (
        <div className="mt-1 border-bad border-l-4 bg-raised px-2 py-1 text-sm">
          <p>Delete {chosen}? Its text is lost.</p>
          <div className="mt-1 flex gap-2">
            <Button onClick={remove}>Delete</Button>
            <Button look="quiet" onClick={() => setEditing(null)}>
              Keep it
            </Button>
          </div>
        </div>
      ) : editing ? (
        <NameForm submit={submit} editing={editing} chosen={chosen} />
      ) : (
        <FileTools setEditing={setEditing} picker={picker} chosen={chosen} take={take} />
      )}
    </div>
  );
}

interface FileToolsProps {
  readonly setEditing: Dispatch<SetStateAction<Editing>>;
  readonly picker: RefObject<HTMLInputElement | null>;
  readonly chosen: string | null;
  readonly take: (list: FileList_ | null) => Promise<void>;
}

function FileTools({ setEditing, picker, chosen, take }: FileToolsProps) {
  return (
    <div className="mt-1 flex items-center gap-1">
      <IconButton label="New file" onClick={() => setEditing({ kind: 'new' })}>
        <FilePlus aria-hidden className="size-4" />
      </IconButton>
      <IconButton label="Add files" onClick={() => picker.current?.click()}>
        <Upload aria-hidden className="size-4" />
      </IconButton>
      <IconButton
        label="Rename file"
        disabled={chosen === null || chosen === 'nimble.json'}
        onClick={() => setEditing({ kind: 'rename' })}
      >
        <Pencil aria-hidden className="size-4" />
      </IconButton>
      <IconButton
        label="Delete file"
        disabled={chosen === null || chosen === 'nimble.json'}
        onClick={() => setEditing({ kind: 'delete' })}
      >
        <Trash2 aria-hidden className="size-4" />
      </IconButton>
      <input
        ref={picker}
        type="file"
        multiple
        hidden
        onChange={(event) => take(event.target.files)}
        data-testid="file-picker"
      />
    </div>
  );
}

interface NameFormProps {
  readonly submit: (name: string) => Promise<void>;
  readonly editing: { readonly kind: 'new' } | { readonly kind: 'rename' };
  readonly chosen: string | null;
}

function NameForm({ submit, editing, chosen }: NameFormProps) {
  return (
    <form
      className="mt-1 flex gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        void submit(new FormData(event.currentTarget).get('name') as string);
      }}
    >
      <TextInput
        isCode
        className="min-w-0 flex-1"
        name="name"
        aria-label="File name"
        defaultValue={editing.kind === 'rename' ? (chosen ?? '') : 'rtl/new.v'}
        ref={(element) => element?.focus()}
      />
      <Button className="h-7" type="submit">
        {editing.kind === 'new' ? 'Add' : 'Rename'}
      </Button>
    </form>
  );
}

interface FilesProps {
  readonly over: boolean;
  readonly setOver: Dispatch<SetStateAction<boolean>>;
  readonly take: (list: FileList_ | null) => Promise<void>;
  readonly files: readonly SourceFile[];
  readonly messages: readonly Message[];
  readonly onChoose: (name: string) => void;
  readonly chosen: string | null;
  readonly stale: readonly string[];
}

function Files({ over, setOver, take, files, messages, onChoose, chosen, stale }: FilesProps) {
  const { unsaved } = useWaiting();
  return (
    <ul
      className={clsx('min-h-0 flex-1 overflow-auto border bg-raised text-sm', over ? 'border-signal' : 'border-line')}
      aria-label="Files"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        void take(event.dataTransfer.files);
      }}
    >
      {files.map(({ name }) => {
        const errors = messages.filter((m) => m.file === name && m.severity === 'error').length;
        return (
          <li key={name}>
            <RowButton
              onClick={() => onChoose(name)}
              aria-current={name === chosen}
              isChosen={name === chosen}
              className="flex items-center gap-2 px-2 py-0.5"
            >
              <span className="min-w-0 flex-1 truncate" title={name}>
                {name}
              </span>
              {errors > 0 && <span className="tabular text-bad">{errors}</span>}
              {unsaved.includes(name) ? (
                <span className="text-doubt text-xs">unsaved</span>
              ) : (
                stale.includes(name) && <span className="text-doubt text-xs">edited</span>
              )}
            </RowButton>
          </li>
        );
      })}
    </ul>
  );
}

type FileList_ = globalThis.FileList;
