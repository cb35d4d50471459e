// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'foreign-file': ({ bsdl }: Told<'bsdl'>) => ({
    message: `The project has no file ${bsdl}, which is to describe its part.`,
    tryNext: ['Add the BSDL file of the part to the project.', 'Name it in nimble.json under "foreign".'],
  }),
  'foreign-bsdl': ({ bsdl, line, why }: Told<'bsdl' | 'line' | 'why'>) => ({
    message: `${bsdl}, line ${line}: ${why}`,
    tryNext: [
      'Take the BSDL file of the part as its maker gives it away.',
      'Look at all of it with nimble bsdl check.',
    ],
  }),
  'foreign-part': ({ part, bsdl, described }: Told<'part' | 'bsdl' | 'described'>) => ({
    message: `The project is for ${part}, but ${bsdl} describes ${described}.`,
    tryNext: ['Name the part in nimble.json as its description calls it.'],
  }),
  'board-file': ({ board }: Told<'board'>) => ({
    message: `The project names the board "${board}", which is not among its files.`,
    tryNext: ['Add the file, or take the name out of nimble.json.'],
  }),
  'encoding (utf-16)': ({ name }: Told<'name'>) => ({
    message: `${name} is UTF-16 text.`,
    tryNext: ['Save it as UTF-8 in your editor.'],
  }),
  'encoding (zero bytes)': ({ name }: Told<'name'>) => ({
    message: `${name} contains zero bytes: it is no text.`,
    tryNext: ['Leave it out of the sources.'],
  }),
  'encoding (not utf-8)': ({ name, line, byte }: Told<'name' | 'line' | 'byte'>) => ({
    message: `${name}, line ${line}: the byte 0x${byte} is not UTF-8 text.`,
    tryNext: ['Save the file as UTF-8 in your editor; it is probably in an older 8-bit encoding.'],
  }),
  'long-line': ({ name, line, most }: Told<'name' | 'line' | 'most'>) => ({
    message: `${name}, line ${line}: the line is longer than ${most} characters.`,
    tryNext: ['Divide it; memory contents belong in a file of their own, one word a line.'],
  }),
  'no-place': ({ line, file }: Told<'line' | 'file'>) => ({
    message: `There is no line ${line} in "${file}" any more.`,
    tryNext: ['Build again, so that messages point at the present sources.'],
  }),
  'no-project': () => ({
    message: 'There is no nimble.json here.',
    tryNext: ['Name a project folder, or give the sources with --top, --part and --pins.'],
  }),
  'plan-file': ({ name, why }: Told<'name' | 'why'>) => ({
    message: `${name} is no JSON: ${why}`,
    tryNext: ['Correct it, or leave it out of the zip file.'],
  }),
  'project-file (not json)': ({ why }: Told<'why'>) => ({
    message: `nimble.json is no JSON: ${why}.`,
    tryNext: ['Compare it with docs/formats.md, section 2.'],
  }),
  'project-file': ({ path, why }: Told<'path' | 'why'>) => ({
    message: `nimble.json: ${path}: ${why}.`,
    tryNext: ['Compare it with docs/formats.md, section 2.'],
  }),
  'too-large': ({ mostFiles, mostBytes }: Told<'mostFiles' | 'mostBytes'>) => ({
    message: `The zip file holds more than ${mostFiles} files or ${mostBytes} MiB.`,
    tryNext: ['Leave out what is no source of the design.'],
  }),
  zip: () => ({
    message: 'This is no zip file, or it is damaged.',
    tryNext: ['Export the project again, or drop the sources themselves.'],
  }),
  'zip (no sources)': () => ({
    message: 'The zip file holds no sources.',
    tryNext: ['Verilog files end in .v or .sv.'],
  }),
});
