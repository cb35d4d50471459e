// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'bitstream-damaged': () => ({
    message: 'The header of this bitstream is damaged: its check sum or its form does not agree.',
    tryNext: ['Copy the file again, or build it again.'],
  }),
  'bitstream-truncated': ({ have, want }: Told<'have' | 'want'>) => ({
    message: `This bitstream is cut short: ${have} bytes are here, at least ${want} are needed.`,
    tryNext: ['Copy the file again, or build it again.'],
  }),
  'bitstream-version': ({ version, versions }: Told<'version' | 'versions'>) => ({
    message: `This bitstream has format version ${version}; versions ${versions} are read here.`,
    tryNext: ['Build it again with this release.'],
  }),
  'no-stream': () => ({
    message: 'These bytes are no configuration stream of a known part.',
    tryNext: ['Write them as Intel HEX, S-record or plain bytes.'],
  }),
  'not-a-bitstream': () => ({
    message: 'This file is no .nbits bitstream: it does not begin with its mark.',
    tryNext: ['Choose the .nbits file that Build wrote.'],
  }),
  'unknown-part': ({ part }: Told<'part'>) => ({
    message: `This bitstream is for ${part}, a part not known here.`,
    tryNext: ['Check the spelling of the part in the project.'],
  }),
});
