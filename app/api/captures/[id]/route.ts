import { base64FromBytes } from '../../../../core/bits/index.ts';
import { z } from 'zod';
import { waveView } from '../../../../core/wave/index.ts';
import { server } from '../../../../server/index.ts';
import { answer, guarded, readJson } from '../../guard.ts';
import { findCapture } from '../find.ts';

export const dynamic = 'force-dynamic';

/** One capture; its samples as base64. */
export const GET = guarded(async (_, { params }: { params: Promise<{ id: string }> }) => {
  const { id, created, capture, view } = await findCapture(params);
  const { data, ...about } = capture;
  return answer({ id, created, about, view, data: base64FromBytes(data.bytes) });
});

/** How it is looked at, or whether others are compared with it. */
export const PUT = guarded(async (request, { params }: { params: Promise<{ id: string }> }) => {
  const { id, project } = await findCapture(params);
  const change = await readJson(request, z.object({ view: waveView.optional(), isReference: z.boolean().optional() }));
  const { captures } = (await server()).store;
  if (change.view) await captures.saveView(project, id, change.view);
  if (change.isReference !== undefined) await captures.setReference(project, change.isReference ? id : null);
  return answer({});
});

export const DELETE = guarded(async (_, { params }: { params: Promise<{ id: string }> }) => {
  const { id, project } = await findCapture(params);
  const on = await server();
  await on.store.captures.remove(project, id);
  on.state.changed();
  return answer({});
});
