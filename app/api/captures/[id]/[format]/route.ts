import { ProblemError, problem } from '../../../../../core/result.ts';
import { type Capture, writeCsv, writeJson, writeVcd } from '../../../../../core/wave/index.ts';
import { guarded } from '../../../guard.ts';
import { findCapture } from '../../find.ts';

export const dynamic = 'force-dynamic';

const WRITERS: Readonly<
  Record<string, { readonly type: string; readonly write: (capture: Capture, created: string) => string }>
> = {
  vcd: { type: 'text/plain', write: writeVcd },
  csv: { type: 'text/csv', write: writeCsv },
  json: { type: 'application/json', write: writeJson },
};

/** One capture as a VCD, CSV or JSON file. */
export const GET = guarded(async (_, { params }: { params: Promise<{ id: string; format: string }> }) => {
  const { format } = await params;
  const writer = WRITERS[format];
  if (!writer)
    throw new ProblemError(
      problem('format', `Captures are not written as "${format}".`, `Choose ${Object.keys(WRITERS).join(', ')}.`),
    );
  const { id, created, capture } = await findCapture(params);
  return new Response(writer.write(capture, created), {
    headers: {
      'content-type': `${writer.type}; charset=utf-8`,
      'content-disposition': `attachment; filename="capture-${id}.${format}"`,
    },
  });
});
