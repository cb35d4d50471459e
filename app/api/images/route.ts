import { z } from 'zod';
import { arrangementOf, describeArrangement, readBitstream, streamFacts } from '../../../core/fabric/index.ts';
import { imageCrc, imageEnd, readImage } from '../../../core/images/index.ts';
import { imageBlocks } from '../../../core/operations/index.ts';
import { problem, ProblemError } from '../../../core/result.ts';
import { DEFAULT_PLAN, IMAGE_CONTAINERS, server } from '../../../server/index.ts';
import { dropped } from '../dropped.ts';
import { takenOf } from '../current.ts';
import { answer, guarded, MOST_UPLOAD_BYTES, readBody, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

const query = z.object({ name: z.string().max(200).default('file'), for: z.enum(['load', 'flash']).default('load') });

export const GET = guarded(async () => answer(await (await server()).store.files.images()));

/**
 * Takes a file: a bitstream for Load, an image of any format for the flash. One with an error is refused here, with its
 * line.
 */
export const POST = guarded(async (request) => {
  const asked = query.parse(Object.fromEntries(new URL(request.url).searchParams));
  const bytes = await readBody(request, MOST_UPLOAD_BYTES);
  const on = await server();
  if (asked.for === 'load') {
    const { part, fingerprint, stream } = takenOf(asked.name, readBitstream(bytes));
    const id = await on.store.files.addImage(asked.name, bytes, {
      format: 'nbits',
      start: 0,
      end: stream.length,
      fingerprint,
    });
    return answer({ id, part, fingerprint, dropped: await dropped(on, id) });
  }
  if (/\.(svf|json|vh?|sv|vcd|csv)$/i.test(asked.name))
    throw new ProblemError(
      problem(
        'no-image',
        `${asked.name} is no memory file.`,
        /\.svf$/i.test(asked.name) ? 'Play it under Load.' : 'Take an Intel HEX, S-record, binary or .nbits file.',
      ),
    );
  const { format, image, problems } = readImage(bytes, IMAGE_CONTAINERS);
  const [first] = problems.filter(({ severity }) => severity === 'error');
  if (first)
    throw new ProblemError(
      problem(
        first.code,
        `${asked.name}${first.line ? `, line ${first.line}` : ''}: ${first.message}`,
        'Correct the file and add it again.',
      ),
    );
  const [start, end] = [image.segments[0]?.start ?? 0, imageEnd(image)];
  const arranged = image.segments[0] ? arrangementOf(image.segments[0].bytes) : null;
  const boots = imageBlocks(asked.name, { format, image }).find(({ role }) => role === 'image');
  const id = await on.store.files.addImage(asked.name, bytes, {
    format,
    start,
    end,
    fingerprint: boots ? streamFacts(boots.bytes).fingerprint : null,
  });
  return answer({
    id,
    dropped: await dropped(on, id),
    format,
    start,
    end,
    segments: image.segments.length,
    crc32: imageCrc(image),
    warnings: [
      ...(arranged ? [describeArrangement(arranged)] : []),
      ...problems.map(({ line, message }) => `${line ? `Line ${line}: ` : ''}${message}`),
    ],
  });
});

export const DELETE = guarded(async (request) => {
  const { id } = await readJson(request, z.object({ id: z.number().int() }));
  const on = await server();
  const removed = await on.store.files.removeImage(id);
  // A plan that names it would only fail.
  const plan = (await on.facts.get('loadPlan')) ?? DEFAULT_PLAN;
  const steps = plan.steps.filter(({ source }) => source.kind !== 'image' || source.id !== id);
  if (steps.length < plan.steps.length)
    await on.facts.set('loadPlan', {
      ...plan,
      steps: steps.length > 0 ? steps : DEFAULT_PLAN.steps.map((step) => ({ ...step })),
    });
  on.state.changed();
  return answer({ removed });
});
