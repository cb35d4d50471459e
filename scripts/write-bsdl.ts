// Writes the boundary-scan description of every invented part to demo/devices. Run it after a change of the silicon.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bsdlText, DESCRIBED_PARTS } from '../core/fabric/index.ts';

const folder = join('demo', 'devices');
mkdirSync(folder, { recursive: true });
for (const name of DESCRIBED_PARTS) writeFileSync(join(folder, `${name.toLowerCase()}.bsd`), bsdlText(name) ?? '');
