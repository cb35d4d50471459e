import { own } from '../../../../../core/lists.ts';
import { ProblemError } from '../../../../../core/result.ts';
import { problem } from '../../../problems.ts';
import { type Capture, writeCsv, writeJson, writeVcd } from '../../../../../core/wave/index.ts';
import { server } from '../../../../../server/index.ts';
import { download, guarded } from '../../../guard.ts';

export const dynamic = 'force-dynamic';

const WRITERS: Readonly<
  Record<string, { readonly type: string; readonly write: (capture: Capture, created: string) => string }>
> = {
  vcd: { type: 'text/plain', write: writeVcd },
  csv: { type: 'text/csv', write: writeCsv },
  json: { type: 'application/json', write: writeJson },
};

/** One capture of the current project as a VCD, CSV or JSON file. */
export const GET = guarded(async (_, { params }: { params: Promise<{ id: string; format: string }> }) => {
  const { id, format } = await params;
  const writer = own(WRITERS, format);
  if (!writer) throw new ProblemError(problem('format', { format, writers: Object.keys(WRITERS).join(', ') }));
  const { projects, captures } = (await server()).store;
  const project = await projects.current();
  const row = project ? await captures.get(project.id, Number(id)) : null;
  if (!row) throw new ProblemError(problem('no-capture'));
  const text = writer.write(row.capture, row.created);
  return download(`capture-${row.id}.${format}`, `${writer.type}; charset=utf-8`, text);
});
