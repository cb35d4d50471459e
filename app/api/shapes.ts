import { z } from 'zod';

const place = z.number().int().min(0).max(200);

/** What goes where. */
export const loadStep = z.object({ device: place.nullable(), source: z.discriminatedUnion('kind', [z.object({ kind: z.literal('build') }), z.object({ kind: z.literal('image'), id: z.number().int() })]) });
