// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'no-hub (prefix)': ({ part, said, answers }: Told<'part' | 'said' | 'answers'>) => ({
    message: `The hub of the debug cores in the ${part} answers behind ${answers} bits of its user register, not behind ${said}.`,
    tryNext: [`Say "prefix": ${answers} under "foreign", "user" in nimble.json.`],
  }),
  'no-hub (foreign)': ({ part }: Told<'part'>) => ({
    message: `No hub of debug cores answers in the ${part}, by the user register that the project names.`,
    tryNext: [
      'Check that the design that was taken along is the one that was built and loaded, with its wrapper as top module.',
      'Check in the wrapper that capture, shift and jtag_tdo are those of the instruction that nimble.json names.',
      'Look by hand: select that instruction under Bench, Registers, and shift something through.',
    ],
  }),
  'no-bridge': () => ({
    message: 'The plan of this build has no bridge to a flash.',
    tryNext: ['Put a bridge into the plan: docs/any-fpga.md.', 'Take the design along anew, build it and load it.'],
  }),
  'hand-lengths': () => ({
    message: 'The chain holds a device whose instruction length is not known, so nothing can be aligned.',
    tryNext: ['Read its BSDL file.', 'Say its instruction length under Chain.'],
  }),
  'hand-opcode': ({ irLength, place }: Told<'irLength' | 'place'>) => ({
    message: `The instruction register of device ${place} has ${irLength} bits; the opcode needs more.`,
    tryNext: ['Give the opcode as its BSDL file has it.'],
  }),
  'hand-place': ({ place, count }: Told<'place' | 'count'>) => ({
    message: `There is no device ${place}; the chain holds ${count}.`,
    tryNext: ['Count from 0, the device nearest TDO.'],
  }),
  'hand-value': ({ text }: Told<'text'>) => ({
    message: `"${text}" is no number.`,
    tryNext: ['Write it in decimal, or with 0x, 0b or 0o before it.'],
  }),
  'hand-value (too long)': ({ text, length }: Told<'text' | 'length'>) => ({
    message: `${text} needs more than ${length} bits.`,
    tryNext: ['Give a longer register, or a smaller number.'],
  }),
  'not-understood (replay)': ({ errors }: Told<'errors'>) => ({
    message: `The sources make no design: ${errors}`,
    tryNext: ['Take the sources of the build that ran, whole.', 'Mend what is said, in the order it is said.'],
  }),
  'boot-failed': () => ({
    message: 'The FPGA read the flash and refused what it found there.',
    tryNext: ['Write the flash again.'],
  }),
  'clock-not-told': ({ clock }: Told<'clock'>) => ({
    message:
      `The rate of the sampling clock ${clock} cannot be told at this TCK: what was counted does not agree with ` +
      'itself, so the times of a capture would be wrong.',
    tryNext: ['Set another TCK under Bench.', `Say the frequency of ${clock} under Design, Clocks.`],
  }),
  'clock-stopped': ({ clock }: Told<'clock'>) => ({
    message: `The sampling clock ${clock} stands still; the recorder cannot see anything.`,
    tryNext: ['Check the oscillator on the board.', 'Choose another sampling clock under Probe.'],
  }),
  'clock-stopped (haltRecorder)': ({ clock }: Told<'clock'>) => ({
    message: `The sampling clock ${clock} does not answer, so it cannot be told how much the recorder holds.`,
    tryNext: ['Check the oscillator on the board.', 'Cancel the capture.'],
  }),
  'done-low': () => ({
    message: 'The FPGA is empty: DONE is low.',
    tryNext: ['Load the build that holds the probes.'],
  }),
  'fingerprint-differs': ({ runs, wanted }: Told<'runs' | 'wanted'>) => ({
    message: `The design that runs is build ${runs}, the probes belong to build ${wanted}.`,
    tryNext: ['Load the current build.'],
  }),
  'flash-alignment': ({ kibibytes, multiple }: Told<'kibibytes' | 'multiple'>) => ({
    message:
      `This stretch begins or ends inside a sector of ${kibibytes} KiB; what else the sector holds would be lost. ` +
      'Nothing was erased.',
    tryNext: [`Choose multiples of 0x${multiple}.`],
  }),
  'flash-protected': () => ({
    message: 'The flash is protected against writing: its block protection bits are set. Nothing was erased.',
    tryNext: ['Check the write-protect pin of the chip.', 'Take the protection off, where it is meant to be off.'],
  }),
  'flash-stretch': () => ({
    message: 'The stretch is empty.',
    tryNext: ['Give a length of at least 1 byte.'],
  }),
  'flash-too-large': ({ address, bytes }: Told<'address' | 'bytes'>) => ({
    message: `This ends at ${address}, the chip at ${bytes}. Nothing was erased.`,
    tryNext: ['Choose a smaller stretch or image.'],
  }),
  'flash-too-large (keepAsSvf)': ({ imageCount, bytes }: Told<'imageCount' | 'bytes'>) => ({
    message: `The image has ${imageCount} bytes, the chip ${bytes}.`,
    tryNext: ['Choose a larger chip.'],
  }),
  'ir-unknown': () => ({
    message: 'The chain holds a device whose instruction length is not known.',
    tryNext: ['Read its BSDL file.'],
  }),
  'no-device': ({ index }: Told<'index'>) => ({
    message: `There is no device ${index} in the chain.`,
    tryNext: ['Count from 0, the device nearest TDO.'],
  }),
  'no-devices': () => ({
    message: 'No device answers.',
    tryNext: ['Run the ladder.'],
  }),
  'no-devices (sweepTck)': () => ({
    message: 'No device answers, even at a low TCK.',
    tryNext: ['Run the ladder.'],
  }),
  'no-flash': ({ name }: Told<'name'>) => ({
    message: `A ${name} has no flash to boot from.`,
    tryNext: ['Load it over JTAG instead.'],
  }),
  'no-lever': ({ unknown, levers }: Told<'unknown' | 'levers'>) => ({
    message: `No panel has a lever on "${unknown}".`,
    tryNext: [`There are ${levers}.`],
  }),
  'no-such-stepper': ({ name }: Told<'name'>) => ({
    message: `This build has no stepper "${name}".`,
    tryNext: ['Add one under Probe, build and load.'],
  }),
  steps: ({ most }: Told<'most'>) => ({
    message: `Steps are a whole number up to ${most}.`,
    tryNext: ['Give fewer steps.'],
  }),
  'no-stepper': ({ panel, clock }: Told<'panel' | 'clock'>) => ({
    message: `Nothing holds ${clock}, the clock of the panel "${panel}", between rows.`,
    tryNext: ['Make the plan for this table: it puts a stepper on the clock. Build with it, and load.'],
  }),
  'stepper-old': ({ name }: Told<'name'>) => ({
    message: `The stepper "${name}" is of another release.`,
    tryNext: ['Build again and load that.'],
  }),
  'no-panel': () => ({
    message: 'This build has no panel.',
    tryNext: ['Add levers or gauges under Probe, build and load.'],
  }),
  'no-reconfigure': () => ({
    message: 'This pod has no reconfigure wire.',
    tryNext: [
      'Rehearse by switching the supply.',
      'Press the reconfigure button of the board, then read the status under Load.',
    ],
  }),
  'no-recorder': ({ recorderText }: Told<'recorderText'>) => ({
    message: `This build has no recorder${recorderText}.`,
    tryNext: ['Add one under Probe, build and load.'],
  }),
  'no-trigger': ({ when, status }: Told<'when' | 'status'>) => ({
    message: `The condition "${when}" did not come true in time; the recorder was still ${status}.`,
    tryNext: ['Wait longer.', 'Check that the condition can come true.'],
  }),
  'not-switched': ({ onText, patienceMicroseconds }: Told<'onText' | 'patienceMicroseconds'>) => ({
    message:
      `The board was not switched ${onText} within ${patienceMicroseconds} minutes: its reference voltage did not ` +
      'change.',
    tryNext: [
      'Start the rehearsal again when you can reach the switch.',
      'Check that the reference pin of the cable is wired.',
    ],
  }),
  'nothing-recorded': () => ({
    message: 'The recorder had not triggered; it holds nothing that could be placed in time. It is disarmed.',
    tryNext: ['Arm again, and press "Trigger now" to take what there is.'],
  }),
  'power-lost': ({ referenceVolts }: Told<'referenceVolts'>) => ({
    message:
      `The board lost its supply in the middle of this: its reference voltage is ${referenceVolts} V. What was ` +
      'written before is there; the rest is not.',
    tryNext: [
      'Switch the board on and write again: it goes on with what is missing.',
      'Check the supply: it must not drop while the flash draws its erase current.',
    ],
  }),
  'trigger-old': ({ name }: Told<'name'>) => ({
    message: `The recorder "${name}" on the board comes from another release.`,
    tryNext: ['Build and load again.'],
  }),
  'trigger-position': ({ size }: Told<'size'>) => ({
    message: `The trigger position must be 0 to ${size} samples.`,
    tryNext: ['Move it into the buffer.'],
  }),
  'wrong-part': ({ name, irLength, index, length }: Told<'name' | 'irLength' | 'index' | 'length'>) => ({
    message: `This is for a ${name} with ${irLength} instruction bits; device ${index} has ${length}.`,
    tryNext: ['Name the right device.'],
  }),
});
