// Writes the boundary-scan description of every invented part, in every package it comes in, to demo/devices. Run it
// after a change of the silicon.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { MARROW, marrowBsdl } from '../bench/index.ts';
import { FAMILIES } from '../core/families/index.ts';

/** Of the parts known here, and of the one that is known by this file alone. */
const folder = join('demo', 'devices');
mkdirSync(folder, { recursive: true });
for (const family of FAMILIES)
  for (const { name } of family.devices)
    for (const [i, packageName] of family.packagesOf(name).entries()) {
      const file = `${name}${i === 0 ? '' : `-${packageName}`}.bsd`.toLowerCase();
      writeFileSync(join(folder, file), family.describe(name, packageName) ?? '');
    }
writeFileSync(join(folder, `${MARROW.name.toLowerCase()}.bsd`), marrowBsdl());
