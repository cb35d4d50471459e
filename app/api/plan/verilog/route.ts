import { server } from '../../../../server/index.ts';
import { taken } from '../../current.ts';
import { guarded } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** The newest build with its probes as plain Verilog. */
export const GET = guarded(async () => {
  const { name, verilog } = taken(await (await server()).desks.probe.takeAlongNow());
  return new Response(verilog, {
    headers: { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': `attachment; filename="${name}"` },
  });
});
