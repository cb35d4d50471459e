import { z } from 'zod';
import { readBitstream } from '../../../../core/fabric/index.ts';
import { FLASH_PARTS } from '../../../../core/flash/index.ts';
import { keepAsSvf, loadAsSvf } from '../../../../core/operations/index.ts';
import { problem, ProblemError } from '../../../../core/result.ts';
import { current, taken } from '../../current.ts';
import { guarded } from '../../guard.ts';

export const dynamic = 'force-dynamic';

const query = z.object({ what: z.enum(['load', 'keep']), flash: z.string().default(FLASH_PARTS[0]?.name ?? '') });

/** The newest build's load, or its way into the flash, as an SVF file for the chain as it was last scanned. */
export const GET = guarded(async (request) => {
  const asked = query.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!asked.success)
    throw new ProblemError(problem('request', 'Ask for what=load or what=keep.', 'Use the links of the page.'));
  const { what, flash: name } = asked.data;
  const { on, project } = await current();
  const row = await on.store.builds.latestGood(project.id);
  const bytes = row ? await on.store.builds.bitstream(row.id) : null;
  const flash = FLASH_PARTS.find((part) => part.name === name);
  if (!row || !bytes || !flash)
    throw new ProblemError(problem('no-build', 'There is no bitstream yet.', 'Build the design.'));
  const bitstream = taken(readBitstream(bytes));
  const devices =
    on.board.said.scan?.devices ??
    (await on.project.expectedChain()).chain?.devices.map((device) => ({
      ...device,
      candidates: device.part === null ? [] : [device.part],
    })) ??
    [];
  const index = devices.findIndex((device) => device.candidates.includes(bitstream.part));
  if (index < 0 || devices.some(({ irLength }) => irLength === null))
    throw new ProblemError(
      problem('part-not-in-chain', `The chain as last seen holds no ${bitstream.part}.`, 'Scan the chain first.'),
    );
  const place = { irLengths: devices.map(({ irLength }) => irLength as number), index };
  const parts: string[] = [];
  const take = (text: string) => void parts.push(text);
  taken(what === 'load' ? loadAsSvf(bitstream, place, take) : keepAsSvf(bitstream, flash, place, take));
  return new Response(parts.join(''), {
    headers: {
      'content-type': 'text/plain',
      'content-disposition': `attachment; filename="${row.details.top}-${bitstream.fingerprint.slice(0, 8)}-${what}.svf"`,
    },
  });
});
