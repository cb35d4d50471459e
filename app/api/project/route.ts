import { z } from 'zod';
import { migrationOf, PROJECT_FILE, projectFile } from '../../../core/build/index.ts';
import { current, taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** What nimble.json says, and the board it names. */
export const GET = guarded(async () => {
  const { on, project } = await current();
  const { file, files } = taken(await on.store.projects.open(project.id));
  const settings = (await on.store.projects.files(project.id)).find(({ name }) => name === PROJECT_FILE)?.text ?? '';
  return answer({
    file,
    migrated: migrationOf(settings),
    board: files.find((f) => f.name === file.board)?.text ?? null,
  });
});

/** Changes settings; those not given stay. A value of null takes an optional setting away. */
export const PUT = guarded(async (request) => {
  const { top, board, ...rest } = await readJson(
    request,
    projectFile
      .pick({ name: true, part: true, grade: true, pins: true, clocks: true })
      .partial()
      .extend({ top: z.string().nullable().optional(), board: z.string().nullable().optional() }),
  );
  const { on, project } = await current();
  taken(
    await on.store.projects.change(project.id, (file) => {
      const { top: oldTop, board: oldBoard, ...others } = file;
      const given = Object.fromEntries(Object.entries(rest).filter(([, value]) => value !== undefined));
      const [newTop, newBoard] = [top === undefined ? oldTop : top, board === undefined ? oldBoard : board];
      return { ...others, ...given, ...(newTop ? { top: newTop } : {}), ...(newBoard ? { board: newBoard } : {}) };
    }),
  );
  on.state.changed();
  return answer({});
});
