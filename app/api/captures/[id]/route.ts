import { base64FromBytes } from '../../../../core/bits/index.ts';
import { answer, guarded } from '../../guard.ts';
import { findCapture } from '../find.ts';

export const dynamic = 'force-dynamic';

/** One capture; its samples as base64. */
export const GET = guarded(async (_, { params }: { params: Promise<{ id: string }> }) => {
  const { id, created, capture } = await findCapture(params);
  const { data, ...about } = capture;
  return answer({ id, created, about, data: base64FromBytes(data.bytes) });
});
