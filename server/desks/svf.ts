import { counted } from '../../core/words.ts';
import { describeMismatch, playSvf } from '../../core/operations/index.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import { NO_OFFSETS, type SvfOffsets } from '../../core/svf/index.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'svf'>;

interface SvfWish {
  readonly file: number;
  /** The file was written for this place alone; null for the whole chain. */
  readonly device: number | null;
  readonly goOn: boolean;
  readonly pauseAt: number | null;
}

/** Plays an uploaded file on the chain. */
export function playFile(on: Needs, wish: SvfWish): number {
  return on.jobs.start('cable', {
    kind: 'svf',
    title: 'SVF',
    board: on.board.name,
    work: async (watch, note) => {
      const file = await on.svf.file(wish.file);
      const pieces = file ? on.svf.read(file.id) : null;
      if (!file || !pieces) return fail(problem('no-file'));
      note({ file: file.name });
      on.svf.begin(file, wish.pauseAt);
      try {
        const played = await on.board.cable(async (chain) => {
          const offsets = wish.device === null ? ok(NO_OFFSETS) : await offsetsOf(on, wish.device);
          if (!offsets.ok) return offsets;
          return ok(
            await playSvf(chain.cable, pieces, watch, {
              offsets: offsets.value,
              goOn: wish.goOn,
              totalBytes: file.bytes,
              gate: (command) => on.svf.gate(command, watch.cancelled),
            }),
          );
        });
        if (!played.ok) {
          on.svf.end(null, played.error.message);
          return played;
        }
        const { mismatches, commands, tckCycles, notes } = played.value;
        for (const { line, message } of notes) on.svf.log(`Line ${line}: ${message}`);
        for (const mismatch of mismatches.slice(1, 50)) on.svf.log(describeMismatch(mismatch).message);
        const [first] = mismatches;
        const trouble = played.value.problem ?? (first ? describeMismatch(first) : null);
        const told =
          `${counted(commands, 'command')}, ${tckCycles.toLocaleString('en')} TCK ` +
          `cycles${trouble ? '' : ', no difference'}.`;
        on.svf.end(played.value, trouble ? trouble.message : told);
        await on.board.look();
        return trouble ? fail(trouble) : ok(told);
      } catch (error) {
        on.svf.end(null, error instanceof Error ? error.message : 'Interrupted.');
        throw error;
      }
    },
  }).id;
}

async function offsetsOf(on: Needs, device: number): Promise<Result<SvfOffsets>> {
  const devices = on.board.said.scan?.devices ?? [];
  if (device >= devices.length || devices.some(({ irLength }) => irLength === null))
    return fail(problem('no-device', { device }));
  const around = (part: typeof devices) => ({
    irBits: part.reduce((sum, { irLength }) => sum + (irLength ?? 0), 0),
    devices: part.length,
  });
  return ok({ towardsTdo: around(devices.slice(0, device)), towardsTdi: around(devices.slice(device + 1)) });
}
