import { type Bitstream, readBitstream } from '../../core/fabric/index.ts';
import { loadBitstream } from '../../core/operations/index.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import type { Runtime } from '../runtime.ts';
import { short, usableBuild } from './subject.ts';

/** Loads the newest build, or a file's bytes when some are given. */
export function load(on: Runtime, file: { readonly name: string; readonly bytes: Uint8Array } | null): number {
  return on.jobs.start('cable', {
    kind: 'load',
    title: 'Load',
    board: on.board,
    work: async (watch, note) => {
      if (file) note({ file: file.name });
      const bitstream = await subject(on, file);
      if (!bitstream.ok) return bitstream;
      note({ build: short(bitstream.value.fingerprint), part: bitstream.value.part });
      const loaded = await on.pod.cable((cable) => loadBitstream(cable, bitstream.value, null, watch));
      if (!loaded.ok) return loaded;
      const { done, device, fingerprint, status, tckCycles, payloadBits, problem } = loaded.value;
      on.running = { device, fingerprint, status };
      if (problem) return fail(problem);
      return ok(`${done ? 'DONE is high' : 'DONE is low'}: build ${short(fingerprint ?? '')} at place ${device}, ${payloadBits.toLocaleString('en')} bits in ${tckCycles.toLocaleString('en')} TCK cycles.`);
    },
  }).id;
}

async function subject(on: Runtime, file: { readonly name: string; readonly bytes: Uint8Array } | null): Promise<Result<Bitstream>> {
  if (!file) {
    const usable = await usableBuild(on);
    return usable.ok ? ok(usable.value.bitstream) : usable;
  }
  const read = readBitstream(file.bytes);
  return read.ok ? read : fail({ ...read.error, message: `${file.name}: ${read.error.message}` });
}
