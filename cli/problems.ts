// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../core/result.ts';

export const problem = saying({
  'cancelled (sending)': () => ({
    message: 'Cancelled. Nothing of the file stays at the pod.',
    tryNext: ['Send it again.'],
  }),
  'bridge-rehearse': () => ({
    message: 'What boots behind a bridge is not known here, so it is not rehearsed. Nothing was written.',
    tryNext: ['Write without --rehearse, then switch the board off and on and look.'],
  }),
  'other-chip': ({ expected, found }: Told<'expected' | 'found'>) => ({
    message: `The chip is a ${found}, not the ${expected} that was expected. Nothing was erased.`,
    tryNext: ['Look at what is printed on the chip.', 'Name the chip that is there with --flash.'],
  }),
  'foreign-out': ({ part }: Told<'part'>) => ({
    message: `No bitstream is made here for ${part}: its own tools do that.`,
    tryNext: [
      'Take the design along with --verilog and --wrapper, build it with them, and play the SVF they write.',
      'docs/any-fpga.md tells it step by step.',
    ],
  }),
  'bad-bsdl': ({ path, line, why }: Told<'path' | 'line' | 'why'>) => ({
    message: `${path}, line ${line}: ${why}`,
    tryNext: ['Look at all of it with nimble bsdl check.'],
  }),
  'no-instruction': ({ name, names }: Told<'name' | 'names'>) => ({
    message: `The device has no instruction "${name}". It has: ${names}.`,
    tryNext: ['Give its BSDL file with --bsdl.', 'Give the opcode in bits, as 0b101010, and --length.'],
  }),
  'no-staged': ({ which, names }: Told<'which' | 'names'>) => ({
    message: `The pod holds no file "${which}". It holds: ${names}.`,
    tryNext: ['Send it with `nimble pod send FILE`.'],
  }),
  'another-build': ({ recorded, given }: Told<'recorded' | 'given'>) => ({
    message: `The record is of another build: its design is ${recorded}, these sources make ${given}.`,
    tryNext: [
      'Take the sources of the build that ran.',
      'Build, load and capture again.',
      'With --any-build it is computed all the same; what disagrees is told.',
    ],
  }),
  'bad-record': ({ file, line, why }: Told<'file' | 'line' | 'why'>) => ({
    message: `${file}, line ${line}: ${why}`,
    tryNext: ['Look at the whole of it with nimble wave info.'],
  }),
  'bad-state': ({ file, why }: Told<'file' | 'why'>) => ({
    message: `${file} says no state: ${why}`,
    tryNext: ['Write {"sample": 0, "values": {"u_count.value": "5"}}: numbers in decimal, 0x or 0b, as text.'],
  }),
  'no-such-signal': ({ name }: Told<'name'>) => ({
    message: `The design has no signal "${name}".`,
    tryNext: ['Names are full paths, from the top module down or within it.'],
  }),
  'no-line': ({ where }: Told<'where'>) => ({
    message: `There is no serial line at ${where}.`,
    tryNext: ['Add a serial part to the bench file: docs/formats.md, section 4.', 'Use a pod that has one.'],
  }),
  'build-failed': () => ({
    message: 'The design does not build.',
    tryNext: ['Mend the errors listed above.'],
  }),
  file: ({ file, errorText }: Told<'file' | 'errorText'>) => ({
    message: `${file} cannot be read: ${errorText}`,
    tryNext: ['Check the path.'],
  }),
  'fingerprint-differs': ({ beside, ofMap, ofBitstream }: Told<'beside' | 'ofMap' | 'ofBitstream'>) => ({
    message: `${beside} belongs to build ${ofMap}, the bitstream is build ${ofBitstream}.`,
    tryNext: ['Take the map that was written with this bitstream.'],
  }),
  'ir-unknown': ({ device }: Told<'device'>) => ({
    message: `It is not known which FPGA stands at place ${device}.`,
    tryNext: ['Read its BSDL file.'],
  }),
  'no-bits': ({ signal }: Told<'signal'>) => ({
    message: `"${signal}" holds texts, which are passed over.`,
    tryNext: ['Choose a signal of bits or real numbers.'],
  }),
  'no-control': ({ name }: Told<'name'>) => ({
    message: `The board has no control "${name}".`,
    tryNext: ['Look up the names in the bench file.'],
  }),
  'no-device': ({ device }: Told<'device'>) => ({
    message: `There is no device ${device} in the chain.`,
    tryNext: ['Count from 0, the device nearest TDO.'],
  }),
  'no-pod': ({ address, message }: Told<'address' | 'message'>) => ({
    message: `No pod answers at ${address}: ${message}.`,
    tryNext: ['Start the pod.', 'Check address and port.'],
  }),
  'no-probe-map': ({ beside, path }: Told<'beside' | 'path'>) => ({
    message: `There is no ${beside} beside ${path}: what its debug cores are connected to is not known.`,
    tryNext: [
      'Copy the .probes.json that was written with the bitstream beside it.',
      'Name the project folder instead: it is built again.',
    ],
  }),
  'no-probes': () => ({
    message: 'The plan holds no probes.',
    tryNext: ['Name a plan with --plan.'],
  }),
  'not-blank': ({ at }: Told<'at'>) => ({
    message: `The byte at 0x${at} is not FF.`,
    tryNext: ['Erase the stretch.'],
  }),
  'part-not-in-chain': ({ part }: Told<'part'>) => ({
    message: `There is no ${part} in the chain.`,
    tryNext: ['Name the device with --device.'],
  }),
  'probe-map': ({ beside }: Told<'beside'>) => ({
    message: `${beside} is no JSON.`,
    tryNext: ['Copy the file again.'],
  }),
});
