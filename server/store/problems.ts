// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../core/result.ts';

export const problem = saying({
  'file-changed': ({ name }: Told<'name'>) => ({
    message: `"${name}" was changed elsewhere after it was read here.`,
    tryNext: ['Take the other text, or save this one over it.'],
  }),
  'file-name (settings)': ({ projectFile }: Told<'projectFile'>) => ({
    message: `${projectFile} keeps its name.`,
    tryNext: ['Rename the project instead.'],
  }),
  'file-name (taken)': ({ to }: Told<'to'>) => ({
    message: `There is already a file "${to}".`,
    tryNext: ['Choose another name.'],
  }),
  'no-file': ({ name }: Told<'name'>) => ({
    message: `The project has no file "${name}".`,
    tryNext: ['Reload the page.'],
  }),
  'no-file (renameFile)': ({ from }: Told<'from'>) => ({
    message: `The project has no file "${from}".`,
    tryNext: ['Reload the page.'],
  }),
  'no-project': () => ({
    message: 'The project was deleted meanwhile; what came of this is not kept.',
    tryNext: ['Open another project.'],
  }),
  'too-many': ({ mostFiles }: Told<'mostFiles'>) => ({
    message: `A project takes at most ${mostFiles} files.`,
    tryNext: ['Leave out what is no source of the design.'],
  }),
});
