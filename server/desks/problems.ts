// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../core/result.ts';

export const problem = saying({
  'cancelled (line)': ({ text }: Told<'text'>) => ({
    message: `Cancelled. “${text}” had not come until then.`,
    tryNext: ['Start it again when ready.'],
  }),
  'line-silent': ({ text, seconds }: Told<'text' | 'seconds'>) => ({
    message: `“${text}” did not come within ${seconds} s.`,
    tryNext: ['Look at what came instead: at a wrong speed it is rubbish.', 'See whether the board runs what says it.'],
  }),
  'bit-errors': ({ errors, told, firstError }: Told<'errors' | 'told' | 'firstError'>) => ({
    message: `${errors} of ${told} came back wrong, the first at bit ${firstError}.`,
    tryNext: ['Run the sweep: it finds the highest frequency that works.', 'Use a shorter cable.'],
  }),
  'boot-failed': () => ({
    message: 'DONE stays low: the FPGA found nothing in the flash that it could boot.',
    tryNext: ['Write the flash again.'],
  }),
  'boot-switch': () => ({
    message: 'DONE stays low: the boot switch stands at JTAG.',
    tryNext: ['Set the boot switch on the board to flash, then power-cycle.'],
  }),
  'build-failed': ({ errorsCount, firstText }: Told<'errorsCount' | 'firstText'>) => ({
    message: `${errorsCount}. ${firstText}`,
    tryNext: ['Mend what the messages under Design point at.'],
  }),
  cancelled: () => ({
    message: 'Cancelled. All pins were given back.',
    tryNext: ['Start it again when ready.'],
  }),
  'cancelled (send)': () => ({
    message: 'Cancelled. Nothing was run.',
    tryNext: ['Start it again when ready.'],
  }),
  compare: () => ({
    message: 'The flash cannot be compared with itself.',
    tryNext: ['Choose a file or what would be written for one side.'],
  }),
  interconnect: ({
    faultsCount,
    faultsCountText,
    testedCount,
    first,
  }: Told<'faultsCount' | 'faultsCountText' | 'testedCount' | 'first'>) => ({
    message: `${faultsCount} ${faultsCountText} on ${testedCount} nets. ${first}`,
    tryNext: ['Look at the pins named under Wiring.'],
  }),
  'is-armed': ({ recorder }: Told<'recorder'>) => ({
    message: `The recorder "${recorder}" is armed already.`,
    tryNext: ['Cancel it first.'],
  }),
  'no-build': () => ({
    message: 'There is no bitstream yet.',
    tryNext: ['Build the design.'],
  }),
  'no-build (pricedPlan)': () => ({
    message: 'The names inside the design come from a build.',
    tryNext: ['Build under Design.'],
  }),
  'no-build (takeAlongNow)': () => ({
    message: 'There is no build to take along.',
    tryNext: ['Build with probes.'],
  }),
  'no-control': () => ({
    message: 'This pod has no power switch.',
    tryNext: ['Switch the board by hand.'],
  }),
  'no-device': ({ device }: Told<'device'>) => ({
    message: `Place ${device} is not known from the last scan.`,
    tryNext: ['Scan the chain first.'],
  }),
  'no-driver': ({ pin, place }: Told<'pin' | 'place'>) => ({
    message: `Pin ${pin} of place ${place} cannot be driven from its boundary register.`,
    tryNext: ['Release first to drive pins of another device.', 'Choose a pin that has an output cell.'],
  }),
  'no-file': () => ({
    message: 'That file is no longer here.',
    tryNext: ['Upload it again.'],
  }),
  'no-table-cores': ({ file }: Told<'file'>) => ({
    message: `The newest build has no panel that ${file} could be run with.`,
    tryNext: ['Make the plan for this table, and build.'],
  }),
  'no-file (vectors)': ({ file }: Told<'file'>) => ({
    message: `The project has no file "${file}".`,
    tryNext: ['Choose another table.'],
  }),
  'no-image': () => ({
    message: 'That file is no longer here.',
    tryNext: ['Add it again.'],
  }),
  'no-image (fileSubject)': ({ name }: Told<'name'>) => ({
    message: `The file ${name} was removed.`,
    tryNext: ['Add it again under Keep.'],
  }),
  'no-image (imageOfBlock)': ({ name, file }: Told<'name' | 'file'>) => ({
    message: `The block "${name}" wants the file ${file}, which was not added.`,
    tryNext: ['Add it under Keep, Layout.'],
  }),
  'no-image (stageAndRun)': () => ({
    message: 'There is no such file or build.',
    tryNext: ['Build, or choose the file again.'],
  }),
  'no-image (subjectOf)': () => ({
    message: 'That file is no longer here.',
    tryNext: ['Choose it again.'],
  }),
  'no-layout': ({ name }: Told<'name'>) => ({
    message: `The project has no layout "${name}".`,
    tryNext: ['Choose another one under Keep.'],
  }),
  'no-nets': () => ({
    message: 'The project describes no nets between devices.',
    tryNext: ['Add "links" to the board description (docs/formats.md, section 7).'],
  }),
  'no-part': () => ({
    message: 'Nothing says behind which FPGA the flash is.',
    tryNext: ['Name the part under Design, Project.'],
  }),
  'no-project': () => ({
    message: 'There is no project.',
    tryNext: ['Create one, or import one.'],
  }),
  'no-project (rehearse)': () => ({
    message: 'There is no project.',
    tryNext: ['Start the product with its demo.'],
  }),
  'not-blank': ({ address }: Told<'address'>) => ({
    message: `The first byte that is not FF is at ${address}.`,
    tryNext: ['Erase the stretch.'],
  }),
  'not-blank (carryOut)': ({ address }: Told<'address'>) => ({
    message: `The byte at ${address} is not FF after the erase.`,
    tryNext: ['Erase again; if it stays, the block is worn out.'],
  }),
  'nothing-armed': () => ({
    message: 'No capture of this recorder was broken off.',
    tryNext: ['Arm it.'],
  }),
  'nothing-armed (triggerNow)': () => ({
    message: 'No recorder is armed.',
    tryNext: ['Arm one first.'],
  }),
  'nothing-recorded': () => ({
    message: 'The recorder has not triggered yet; there is nothing to read.',
    tryNext: ['Press "Trigger now", or wait.'],
  }),
  'part-not-in-chain': ({ part }: Told<'part'>) => ({
    message: `The chain as last seen holds no ${part}.`,
    tryNext: ['Scan the chain first.'],
  }),
  'stage-gone': () => ({
    message: 'The pod no longer holds the file: it was started anew.',
    tryNext: ['Stage it again.'],
  }),
  'stale-build': ({ edits }: Told<'edits'>) => ({
    message: `The build is older than ${edits}, and its fingerprint would not tell what is taken along.`,
    tryNext: ['Build with probes first.'],
  }),
  sweep: () => ({
    message: 'Bits come back wrong even at the lowest frequency.',
    tryNext: ['Run the ladder.'],
  }),
  'captures-full': ({ count, megabytes }: Told<'count' | 'megabytes'>) => ({
    message: `This project has ${count} captures of ${megabytes} MiB together, as many as it may have.`,
    tryNext: ['Delete some under Capture, "All of them", then arm again.'],
  }),
  'broken-off': ({ name, bytes, announced }: Told<'name' | 'bytes' | 'announced'>) => ({
    message: `Of ${name} ${bytes} of ${announced} bytes arrived. Nothing of it was kept.`,
    tryNext: ['Send it again.'],
  }),
  'too-large': ({ mostFileBytes }: Told<'mostFileBytes'>) => ({
    message: `A file of more than ${mostFileBytes} MiB is not taken here.`,
    tryNext: ['Play it with "nimble svf play", which reads it in place.'],
  }),
  'unknown-flash': ({ name }: Told<'name'>) => ({
    message: `No flash "${name}" is known.`,
    tryNext: ['Name one of docs/silicon.md.'],
  }),
});
