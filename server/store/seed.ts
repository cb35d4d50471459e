import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import type { Projects } from './projects.ts';

const SOURCES = /\.(s?vh?|csv|hex|mem)$|^nimble\.json$|\.(board|chain|layout)\.json$/;

/** Puts the demo project into an empty database. */
export async function seedDemo(projects: Projects): Promise<void> {
  if (await projects.current()) return;
  const folder = join(/* turbopackIgnore: true */ process.cwd(), 'demo', 'lockhouse');
  if (!existsSync(folder)) return;
  const names = filesBelow(folder).filter(
    (path) => SOURCES.test(relative(folder, path)) || path.endsWith('nimble.json'),
  );
  const files = names.map((path) => ({
    name: relative(folder, path).replaceAll('\\', '/'),
    text: readFileSync(path, 'utf8'),
  }));
  await projects.create('Lockhouse', files);
}

const filesBelow = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true })
    .flatMap((entry) => (entry.isDirectory() ? filesBelow(join(folder, entry.name)) : [join(folder, entry.name)]))
    .sort();
