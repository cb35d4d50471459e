import { useMemo } from 'react';
import { toast } from 'sonner';
import { partNamed, type PackageDrawing } from '../../../core/families/index.ts';
import { readBoard } from '../../../core/constraints/index.ts';
import {
  benchText,
  boardParts,
  type BoardParts,
  checkParts,
  describedBoard,
  partsFromNets,
  partsOf,
  partsOfBench,
  type PartIssue,
  type PartRow,
  rowsOf,
} from '../../../core/parts/index.ts';
import type { Problem } from '../../../core/result.ts';
import { api, useAct, useFiles, useOwnChange, useProject, useRemembered, useSaveFile } from '../../shared/index.ts';
import { useQueryClient } from '@tanstack/react-query';

const KEPT = { file: '' };
const ENDING = '.bench.json';

const fileNameOf = (name: string): string =>
  `${
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'board'
  }`;

/** What is edited: one bench file of the project, its parts as rows, and what is wrong with them. */
export interface EditedBench {
  readonly files: readonly string[];
  readonly file: string;
  readonly text: string | null;
  readonly rows: readonly PartRow[];
  readonly issues: readonly PartIssue[];
  readonly drawing: PackageDrawing;
  readonly problem: Problem | null;
  readonly choose: (file: string) => void;
  readonly change: (rows: readonly PartRow[]) => Promise<void>;
  /** Writes the board description of the project from the parts. */
  readonly describe: () => Promise<void>;
  /** Puts in what the project's board description leads to; null where it has none. */
  readonly fromDescription: (() => Promise<void>) | null;
}

/** Null until the project is read. */
export function useEditedBench(): EditedBench | null {
  const project = useProject().data;
  const all = useFiles().data;
  const [kept, setKept] = useRemembered('bench-parts', KEPT);
  const { keep, save } = useSaveFile();
  const { act } = useAct();
  const own = useOwnChange();
  const queries = useQueryClient();
  const files = (all ?? []).map(({ name }) => name).filter((name) => name.endsWith(ENDING));
  const file = files.includes(kept.file) ? kept.file : (files[0] ?? `${fileNameOf(project?.file.name ?? '')}${ENDING}`);
  const text = all?.find(({ name }) => name === file)?.text ?? null;
  const read = useMemo(() => (text === null ? null : partsOfBench(file, text)), [file, text]);
  const parts: BoardParts = useMemo(() => (read?.ok ? read.value : boardParts.parse({})), [read]);
  const rows = useMemo(() => rowsOf(parts), [parts]);
  const part = project ? partNamed(project.file.part) : undefined;
  const inCase = part?.packages.find((name) => name === project?.file.package) ?? part?.packages[0];
  const drawing = part && inCase !== undefined ? part.family.drawing(inCase) : null;
  const issues = useMemo(() => (drawing ? checkParts(rows, drawing) : []), [rows, drawing]);
  if (!project || !all || !drawing) return null;
  const about = { name: project.file.name, part: project.file.part, package: project.file.package };
  const put = async (name: string, next: string) => {
    keep(name, next);
    return save(name);
  };
  const change = async (next: readonly PartRow[]) =>
    void (await put(file, benchText(text, about, partsOf(next, parts))));
  const board = project.board === null ? null : readBoard(project.file.board ?? '', project.board);
  return {
    ...{ files, file, text, rows, issues, drawing, change },
    problem: read && !read.ok ? read.error : null,
    choose: (next) => setKept({ file: next }),
    describe: async () => {
      const name = project.file.board ?? file.replace(ENDING, '.board.json');
      const before = board?.ok ? board.value : null;
      const described = describedBoard({ ...about, banks: parts.banks, flash: before?.flash }, rows);
      const next = { ...described, links: before?.links ?? [] };
      if (!(await put(name, `${JSON.stringify(next, null, 2)}\n`))) return;
      if (project.file.board !== name) await act(() => own(() => api.project.change.mutate({ board: name })));
      await queries.invalidateQueries({ queryKey: ['project'] });
      toast.success(`${name} says what these parts are wired to.`, {
        description: '“Pins from the board” and the clocks of Design take it from there.',
      });
    },
    fromDescription: board?.ok
      ? async () => {
          const { rows: found, left } = partsFromNets(board.value);
          const wired = new Set(rows.flatMap(({ pins }) => Object.values(pins)));
          const fresh = found.filter(({ pins }) => !Object.values(pins).some((pin) => wired.has(pin)));
          await change([...rows, ...renamed(fresh, rows)]);
          const unknown =
            left.length === 0
              ? ''
              : ` Nothing is known of ${left.slice(0, 6).join(', ')}${left.length > 6 ? ' …' : ''}.`;
          toast.success(`${fresh.length} parts from ${board.value.name}.${unknown}`);
        }
      : null,
  };
}

/** New parts beside others: names that are taken are counted on. */
function renamed(fresh: readonly PartRow[], rows: readonly PartRow[]): PartRow[] {
  const taken = new Set(rows.map(({ name }) => name));
  return fresh.map((row) => {
    let name = row.name;
    for (let i = 0; taken.has(name); i++) name = `${row.name.replace(/\d+$/, '')}${i}`;
    taken.add(name);
    return { ...row, name };
  });
}
