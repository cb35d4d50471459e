'use client';
import { type OscillatorOnPin, oscillatorsOn, parsePinTable, readBoard } from '../../../core/constraints/index.ts';
import { useFiles, useBoard, useProject } from '../../shared/index.ts';

interface ClockPin {
  readonly pin: string | null;
  readonly oscillators: readonly OscillatorOnPin[];
}

/** The pin of a clock port, and what the board's description and the bench know to run there. */
export function useClockPins(): (port: string) => ClockPin {
  const project = useProject().data;
  const files = useFiles().data;
  const found = (useBoard()?.view?.parts ?? []).filter((part) => part.kind === 'oscillator');
  const board = project?.board ? readBoard(project.file.board ?? '', project.board) : null;
  const described = board?.ok ? board.value.oscillators : [];
  const entries = parsePinTable(files?.find(({ name }) => name === project?.file.pins)?.text ?? '');
  return (port) => {
    const pin = entries.find(({ name }) => name === port)?.pin ?? '';
    return { pin: pin === '' ? null : pin, oscillators: oscillatorsOn(pin, { described, found }) };
  };
}
