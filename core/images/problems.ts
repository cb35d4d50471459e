// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  address: () => ({
    message: 'An address needs more than 32 bits; this format has no more.',
    tryNext: ['Move the image down with an offset.'],
  }),
  'board-data': ({ name, wrong }: Told<'name' | 'wrong'>) => ({
    message: `The field "${name}" ${wrong}.`,
    tryNext: ['Give a value in the form under Board data, or in its column of the table.'],
  }),
  'byte-order': ({ start, bytesCount, word }: Told<'start' | 'bytesCount' | 'word'>) => ({
    message: `The data at 0x${start}, ${bytesCount}, does not consist of whole words of ${word} bytes.`,
    tryNext: ['Convert it to plain bytes first, with gaps filled.'],
  }),
  format: () => ({
    message: 'This format cannot be written here.',
    tryNext: ['Choose another one.'],
  }),
  offset: ({ start, by }: Told<'start' | 'by'>) => ({
    message: `The data begins at 0x${start}; it cannot be moved down by 0x${by}.`,
    tryNext: ['Choose a smaller offset.'],
  }),
  'too-large': ({ end, start }: Told<'end' | 'start'>) => ({
    message: `As plain bytes from address 0 this image would have ${end} bytes.`,
    tryNext: [`Move it down with an offset, such as --offset -0x${start}.`],
  }),
});
