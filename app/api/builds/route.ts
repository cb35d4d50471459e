import { current } from '../current.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** The builds that are kept, newest first, in short. */
export const GET = guarded(async () => {
  const { on, project } = await current();
  const rows = await on.store.builds.list(project.id);
  return answer(
    rows.map(({ id, created, milliseconds, good, details }) => ({
      id,
      created,
      milliseconds,
      good,
      fingerprint: details.fingerprint,
      part: details.part,
      resources: details.resources,
      highest: details.timing?.clocks.map(({ clock, highest }) => ({ clock, highest })) ?? [],
      messages: details.messages.length,
    })),
  );
});
