import type { ToldDeed } from '../../core/pod/index.ts';
import type { Given } from './needs.ts';

/** Something that others did to this board: it belongs into its history, told apart from what was done here. */
export async function heardDeed(
  { board, facts, store, changed }: Pick<Given, 'board' | 'facts' | 'store' | 'changed'>,
  deed: ToldDeed,
): Promise<void> {
  const last = await facts.get('lastDeed');
  if (last && last.pod === deed.pod && last.number >= deed.number) return;
  await facts.set('lastDeed', { pod: deed.pod, number: deed.number });
  const { kind, outcome, device, part, fingerprint, source, verified, leaves, chip, message, by, time } = deed;
  const entry = await store.logbook.open(
    kind === 'load' ? 'Load' : 'Keep',
    board.name,
    { by, source, part, ...(fingerprint ? { build: fingerprint.slice(0, 8) } : {}), ...(chip ? { chip } : {}) },
    '',
    by,
  );
  await store.logbook.close(entry, outcome, message, 0);
  if (kind === 'load')
    await store.files.addLoad({
      time,
      board: board.name,
      device: device ?? -1,
      part,
      fingerprint: fingerprint ?? '',
      source,
      outcome,
      verified,
      by,
    });
  else {
    if (!leaves)
      await facts.set(
        'kept',
        outcome === 'done' && fingerprint !== null && chip !== null
          ? { fingerprint, chip, time, layout: null, project: null, by }
          : null,
      );
    board.said.flash = null;
    board.said.rehearsal = null;
  }
  changed();
}
