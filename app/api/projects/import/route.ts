import { readArchive } from '../../../../core/build/index.ts';
import { taken } from '../../../../core/result.ts';
import { importedProject, server } from '../../../../server/index.ts';
import { guarded, readUpload } from '../../guard.ts';

/** Makes a project of a zip file and opens it. */
export const POST = guarded(async (request) => {
  const archive = taken(readArchive((await readUpload(request)).bytes));
  const { name, files } = taken(importedProject(archive.files));
  const on = await server();
  const id = await on.store.projects.create(name, files, archive.shelf);
  on.state.changed();
  return Response.json({ id, name, remarks: archive.remarks });
});
