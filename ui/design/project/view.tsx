'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Copy, Download, Trash2, Upload } from 'lucide-react';
import { type Dispatch, type SetStateAction, useState } from 'react';
import { toast } from 'sonner';
import { FAMILIES, type Part, partNamed, partsOf, usualPart } from '../../../core/families/index.ts';
import {
  api,
  Button,
  dateTime,
  IconButton,
  Section,
  Select,
  TextButton,
  TextInput,
  upload,
  useAct,
  useFiles,
  useLive,
  useOwnChange,
  FileButton,
  DownloadLink,
  useProject,
} from '../../shared/index.ts';
import { readParameters, writeParameters } from '../parameters.ts';
import { useSourcePorts } from '../queries.ts';
import { WrongParameter } from '../wrong-parameter.tsx';
import type { ProjectFile, SourcePorts } from '../../../core/build/index.ts';
import type { SourceFile } from '../../shared/index.ts';

/** Settings of the project at hand, and the other projects. */
const PARTS = partsOf(FAMILIES);

/** Grades of a part in words, slowest first. */
function gradesOf(part: Part | undefined): readonly { readonly grade: number; readonly words: string }[] {
  const grades = part?.family.grades ?? [];
  return grades.map((grade, i) => ({
    grade,
    words: `${grade}${i === 0 ? ', slow' : i === grades.length - 1 ? ', fast' : ''}`,
  }));
}

export function ProjectView() {
  const state = useLive('project');
  return (
    <div className="grid min-h-0 grid-cols-[minmax(0,2fr)_minmax(0,3fr)] gap-6 overflow-auto">
      <div>{state?.project && <Settings key={state.project.id} />}</div>
      <div>
        <ProjectList />
        <NewProject />
      </div>
    </div>
  );
}

function Settings() {
  const queries = useQueryClient();
  const { act } = useAct();
  const own = useOwnChange();
  const project = useProject().data;
  const files = useFiles().data ?? [];
  const read = useSourcePorts();
  const modules = read?.modules ?? [];
  if (!project) return <p className="text-bad text-sm">nimble.json cannot be read; mend it under Sources.</p>;
  const { file } = project;
  const save = async (change: Record<string, unknown>) => {
    await act(() => own(() => api.project.change.mutate(change)));
    await Promise.all([
      queries.invalidateQueries({ queryKey: ['project'] }),
      queries.invalidateQueries({ queryKey: ['files'] }),
      queries.invalidateQueries({ queryKey: ['projects'] }),
    ]);
  };
  const part = partNamed(file.part);
  return (
    <Section title="This project">
      {project.migrated && (
        <p className="mb-2 border-doubt border-l-4 bg-raised px-3 py-1 text-sm" data-testid="migrated">
          {project.migrated.message}
        </p>
      )}
      <div className="grid grid-cols-[7rem_minmax(0,1fr)] items-center gap-x-3 gap-y-2 text-sm">
        <label htmlFor="project-name">Name</label>
        <TextInput
          size="normal"
          className="w-full"
          id="project-name"
          defaultValue={file.name}
          onBlur={(event) =>
            event.target.value.trim() !== '' &&
            event.target.value !== file.name &&
            save({ name: event.target.value.trim() })
          }
        />
        <label htmlFor="project-part">Part</label>
        <PartPick file={file} save={save} />
        <label htmlFor="project-package">Package</label>
        <PackagePick file={file} part={part} save={save} />
        <label htmlFor="project-grade">Speed grade</label>
        <GradePick file={file} save={save} part={part} />
        <label htmlFor="project-top">Top module</label>
        <TopPick file={file} save={save} read={read} modules={modules} />
        <label htmlFor="project-parameters">Parameters</label>
        <ParametersPick file={file} save={save} />
        <label htmlFor="project-board">Board</label>
        <BoardPick file={file} save={save} files={files} />
      </div>
      <p className="mt-2 text-quiet text-xs">
        A board's description is a file of the project whose name ends in .board.json.
      </p>
    </Section>
  );
}

interface BoardPickProps {
  readonly file: ProjectFile;
  readonly save: (change: Record<string, unknown>) => Promise<void>;
  readonly files: SourceFile[];
}

function BoardPick({ file, save, files }: BoardPickProps) {
  return (
    <Select
      size="normal"
      className="w-full"
      id="project-board"
      value={file.board ?? ''}
      onChange={(event) => save({ board: event.target.value || null })}
    >
      <option value="">none</option>
      {files
        .filter((f) => f.name.endsWith('.board.json'))
        .map((f) => (
          <option key={f.name}>{f.name}</option>
        ))}
    </Select>
  );
}

interface ParametersPickProps {
  readonly file: ProjectFile;
  readonly save: (change: Record<string, unknown>) => Promise<void>;
}

/** Parameters of the top module for the build; those of a simulation are set under Simulate. */
function ParametersPick({ file, save }: ParametersPickProps) {
  const [wrong, setWrong] = useState<string | null>(null);
  const kept = writeParameters(file.parameters);
  const take = (text: string) => {
    const read = readParameters(text);
    setWrong('wrong' in read ? read.wrong : null);
    if (!('wrong' in read) && writeParameters(read.parameters) !== kept) void save({ parameters: read.parameters });
  };
  return (
    <div>
      <TextInput
        key={kept}
        size="normal"
        isCode
        className="w-full"
        id="project-parameters"
        placeholder="NAME=8"
        title="Of the top module, for the build; those of a simulation stand under Simulate"
        defaultValue={kept}
        onBlur={(event) => take(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && take(event.currentTarget.value)}
      />
      {wrong !== null && <WrongParameter word={wrong} />}
    </div>
  );
}

interface TopPickProps {
  readonly file: ProjectFile;
  readonly save: (change: Record<string, unknown>) => Promise<void>;
  readonly read: SourcePorts | null;
  readonly modules: readonly string[];
}

function TopPick({ file, save, read, modules }: TopPickProps) {
  return (
    <Select
      size="normal"
      isCode
      className="w-full"
      id="project-top"
      value={file.top ?? ''}
      onChange={(event) => save({ top: event.target.value || null })}
    >
      <option value="">{read?.top && file.top === undefined ? `as found: ${read.top}` : 'as found'}</option>
      {file.top !== undefined && !modules.includes(file.top) && (
        <option value={file.top}>{read ? `${file.top} (not in the sources)` : file.top}</option>
      )}
      {modules.map((name) => (
        <option key={name}>{name}</option>
      ))}
    </Select>
  );
}

interface GradePickProps {
  readonly file: ProjectFile;
  readonly save: (change: Record<string, unknown>) => Promise<void>;
  readonly part: Part | undefined;
}

function GradePick({ file, save, part }: GradePickProps) {
  return (
    <Select
      size="normal"
      className="w-full"
      id="project-grade"
      value={file.grade}
      onChange={(event) => save({ grade: Number(event.target.value) })}
    >
      {gradesOf(part).map(({ grade, words }) => (
        <option key={grade} value={grade}>
          {words}
        </option>
      ))}
    </Select>
  );
}

interface PackagePickProps {
  readonly file: ProjectFile;
  readonly part: Part | undefined;
  readonly save: (change: Record<string, unknown>) => Promise<void>;
}

function PackagePick({ file, part, save }: PackagePickProps) {
  return (
    <Select
      size="normal"
      className="w-full"
      id="project-package"
      value={file.package ?? part?.packages[0] ?? ''}
      onChange={(event) => save({ package: event.target.value })}
    >
      {file.package !== undefined && !part?.packages.includes(file.package) && <option>{file.package}</option>}
      {part?.packages.map((name) => (
        <option key={name} value={name}>
          {`${name}: ${part.family.drawing(name).pins.filter(({ kind }) => kind === 'io').length} user pins`}
        </option>
      ))}
    </Select>
  );
}

interface PartPickProps {
  readonly file: ProjectFile;
  readonly save: (change: Record<string, unknown>) => Promise<void>;
}

function PartPick({ file, save }: PartPickProps) {
  return (
    <Select
      size="normal"
      className="w-full"
      id="project-part"
      value={file.part}
      onChange={(event) => save({ part: event.target.value, package: null })}
    >
      {!PARTS.some((p) => p.name === file.part) && <option>{file.part}</option>}
      {PARTS.map((p) => (
        <option key={p.name} value={p.name}>{`${p.name}: ${p.luts.toLocaleString('en')} LUTs`}</option>
      ))}
    </Select>
  );
}

function ProjectList() {
  const state = useLive('project');
  const queries = useQueryClient();
  const { act } = useAct();
  const [asked, setAsked] = useState<{ id: number; what: 'delete' | 'duplicate' } | null>(null);
  const list = useQuery({
    queryKey: ['projects', state?.project?.id ?? 0, state?.project?.name],
    queryFn: () => api.project.list.query(),
  }).data;
  const refresh = () => queries.invalidateQueries({ queryKey: ['projects'] });
  const open = async (id: number) => {
    await act(() => api.project.open.mutate({ id }));
    await refresh();
  };
  const duplicate = async (id: number, name: string) => {
    await act(() => api.project.duplicate.mutate({ id, name }));
    setAsked(null);
    await refresh();
  };
  const remove = async (id: number) => {
    await act(() => api.project.remove.mutate({ id }));
    setAsked(null);
    await refresh();
  };
  return (
    <Section title="Projects" aside={<Import onDone={refresh} />}>
      <ul className="border border-line bg-raised text-sm">
        {(list?.projects ?? []).map((project) => (
          <OneProject
            key={project.id}
            project={project}
            list={list}
            open={open}
            setAsked={setAsked}
            asked={asked}
            remove={remove}
            duplicate={duplicate}
          />
        ))}
      </ul>
    </Section>
  );
}

type Projects = Awaited<ReturnType<typeof api.project.list.query>>;

interface OneProjectProps {
  readonly project: Projects['projects'][number];
  readonly list: Projects | undefined;
  readonly open: (id: number) => Promise<void>;
  readonly setAsked: Dispatch<SetStateAction<{ id: number; what: 'delete' | 'duplicate' } | null>>;
  readonly asked: { id: number; what: 'delete' | 'duplicate' } | null;
  readonly remove: (id: number) => Promise<void>;
  readonly duplicate: (id: number, name: string) => Promise<void>;
}

function OneProject({ project, list, open, setAsked, asked, remove, duplicate }: OneProjectProps) {
  return (
    <li className="border-line border-b px-2 py-1 last:border-b-0">
      <div className="flex items-center gap-2">
        <TextButton
          className={clsx('min-w-0 flex-1 truncate text-left', project.id === list?.current && 'font-bold')}
          onClick={() => open(project.id)}
          disabled={project.id === list?.current}
        >
          {project.name}
          {(list?.projects ?? []).filter(({ name }) => name === project.name).length > 1 && (
            <span className="tabular ml-1 font-normal text-quiet text-xs">no. {project.id}</span>
          )}
          {project.id === list?.current && <span className="ml-2 font-normal text-good text-xs">open</span>}
        </TextButton>
        <span className="tabular text-quiet text-xs">{dateTime(project.created)}</span>
        <DownloadLink
          className="p-1 text-quiet hover:text-ink"
          href={`/api/projects/${project.id}/zip`}
          aria-label={`Export ${project.name}`}
          title="Export as zip"
        >
          <Download aria-hidden className="size-4" />
        </DownloadLink>
        <IconButton
          label={`Duplicate ${project.name}`}
          title="Duplicate"
          onClick={() => setAsked({ id: project.id, what: 'duplicate' })}
        >
          <Copy aria-hidden className="size-4" />
        </IconButton>
        <IconButton
          label={`Delete ${project.name}`}
          title="Delete"
          onClick={() => setAsked({ id: project.id, what: 'delete' })}
        >
          <Trash2 aria-hidden className="size-4" />
        </IconButton>
      </div>
      {asked?.id === project.id && asked?.what === 'delete' && (
        <div className="mt-1 flex items-center gap-2 border-bad border-l-4 pl-2">
          <span>Delete {project.name} with its sources, builds and captures? They are lost.</span>
          <Button onClick={() => remove(project.id)}>Delete</Button>
          <Button look="quiet" onClick={() => setAsked(null)}>
            Keep it
          </Button>
        </div>
      )}
      {asked?.id === project.id && asked?.what === 'duplicate' && (
        <form
          className="mt-1 flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void duplicate(project.id, String(new FormData(event.currentTarget).get('name')));
          }}
        >
          <TextInput
            size="normal"
            className="min-w-0 flex-1"
            name="name"
            required
            aria-label="Name of the copy"
            defaultValue={`${project.name} copy`}
          />
          <Button type="submit">Duplicate</Button>
          <Button look="quiet" onClick={() => setAsked(null)}>
            Leave it
          </Button>
        </form>
      )}
    </li>
  );
}

function Import({ onDone }: { readonly onDone: () => void }) {
  const { act, busy } = useAct();
  const take = async (file: File) => {
    const done = await act(() =>
      upload<{ readonly name: string; readonly remarks: readonly string[] }>('/api/projects/import', file),
    );
    if (done) toast.success(`${done.name} is imported and open.`);
    for (const remark of done?.remarks ?? []) toast.info(remark);
    onDone();
  };
  return (
    <FileButton
      label="Project as a zip file"
      accept=".zip"
      look="plain"
      testId="zip-picker"
      disabled={busy}
      onFile={(file) => void take(file)}
    >
      <Upload aria-hidden className="size-4" /> Import zip
    </FileButton>
  );
}

function NewProject() {
  const queries = useQueryClient();
  const { act, busy } = useAct();
  return (
    <Section title="New project">
      <form
        className="flex items-center gap-2 text-sm"
        onSubmit={async (event) => {
          event.preventDefault();
          const form = event.currentTarget;
          const data = new FormData(form);
          const [name, part] = [String(data.get('name')), String(data.get('part'))];
          if (await act(() => api.project.create.mutate({ name, part }))) form.reset();
          await queries.invalidateQueries({ queryKey: ['projects'] });
        }}
      >
        <TextInput
          size="normal"
          className="min-w-0 flex-1"
          name="name"
          required
          disabled={busy}
          placeholder="Name"
          aria-label="Name of the new project"
        />
        <Select size="normal" name="part" aria-label="Part of the new project" defaultValue={usualPart()}>
          {PARTS.map((p) => (
            <option key={p.name}>{p.name}</option>
          ))}
        </Select>
        <Button type="submit" disabled={busy}>
          Create
        </Button>
      </form>
    </Section>
  );
}
