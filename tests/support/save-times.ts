// What it costs that a save outlives a power cut.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openDatabase } from '../../server/store/database.ts';
import { openStore } from '../../server/store/index.ts';

const SAVES = 300;

/** Milliseconds of a save, the median, with each way of SQLite to wait for the disk. */
export async function saveTimes(): Promise<{ readonly full: number; readonly normal: number }> {
  const folder = mkdtempSync(join(tmpdir(), 'nimble-saves-'));
  try {
    const times = async (mode: 'FULL' | 'NORMAL') => {
      const database = await openDatabase(join(folder, `${mode}.sqlite`));
      await database.raw(`PRAGMA synchronous = ${mode}`);
      const { projects } = openStore(database);
      const id = await projects.create('p', [{ name: 'a.v', text: '' }]);
      const took: number[] = [];
      for (let i = 0; i < SAVES; i++) {
        const start = performance.now();
        await projects.save(id, 'a.v', `// ${i}\n`.repeat(500));
        took.push(performance.now() - start);
      }
      await database.destroy();
      return took.sort((a, b) => a - b)[SAVES >> 1] ?? 0;
    };
    return { normal: await times('NORMAL'), full: await times('FULL') };
  } finally {
    rmSync(folder, { recursive: true });
  }
}
