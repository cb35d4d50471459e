import { writeVcd } from '../../../../../core/wave/index.ts';
import { guarded } from '../../../guard.ts';
import { findCapture } from '../../find.ts';

export const dynamic = 'force-dynamic';

/** One capture as a VCD file. */
export const GET = guarded(async (_, { params }: { params: Promise<{ id: string }> }) => {
  const { id, created, capture } = await findCapture(params);
  return new Response(writeVcd(capture, created), { headers: { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': `attachment; filename="capture-${id}.vcd"` } });
});
