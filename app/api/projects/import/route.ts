import { readArchive, readProjectFile, writeProjectFile } from '../../../../core/build/index.ts';
import { runtime } from '../../../../server/index.ts';
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
  const server = await runtime();
  const id = await server.projects.create(name, files, archive.shelf);
  server.changed();
  return answer({ id, name, remarks: archive.remarks });
});
