import { readArchive, readProjectFile, writeProjectFile } from '../../../../core/build/index.ts';
import { server } from '../../../../server/index.ts';
import { taken } from '../../current.ts';
import { answer, guarded, MOST_UPLOAD_BYTES, readBody } from '../../guard.ts';

/** Makes a project of a zip file and opens it. One without nimble.json gets one, for the part CV25. */
export const POST = guarded(async (request) => {
  const archive = taken(readArchive(await readBody(request, MOST_UPLOAD_BYTES)));
  const settings = archive.files.find((file) => file.name === 'nimble.json');
  const file = settings ? taken(readProjectFile(settings.text)) : null;
  const name = file?.name ?? 'Imported';
  const files = settings
    ? archive.files
    : [
        ...archive.files,
        {
          name: 'nimble.json',
          text: writeProjectFile({
            format: 'nimble-project',
            version: 2,
            name,
            part: 'CV25',
            grade: 2,
            pins: 'pins.csv',
            clocks: {},
            accepted: [],
          }),
        },
      ];
  const on = await server();
  const id = await on.store.projects.create(name, files, archive.shelf);
  on.state.changed();
  return answer({ id, name, remarks: archive.remarks });
});
