import { DEFAULT_PLAN, type server } from '../../server/index.ts';

/** Names of the files that were deleted for a new one; what is chosen for Load or Keep is none of them. */
export async function dropped(on: Awaited<ReturnType<typeof server>>, added: number): Promise<string[]> {
  const plan = (await on.facts.get('loadPlan')) ?? DEFAULT_PLAN;
  const kept = (await on.facts.get('keepChoice'))?.image?.id;
  return on.store.files.makeRoom(
    new Set([
      added,
      ...(kept === undefined ? [] : [kept]),
      ...plan.steps.flatMap(({ source }) => (source.kind === 'image' ? [source.id] : [])),
    ]),
  );
}
