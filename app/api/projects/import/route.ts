import { server } from '../../../../server/index.ts';
import { guarded, readUpload } from '../../guard.ts';

/** Makes a project of a zip file and opens it. */
export const POST = guarded(async (request) => {
  const { bytes } = await readUpload(request);
  return Response.json(await (await server()).desks.design.takeProject(bytes));
});
