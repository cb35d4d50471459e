import { taken } from '../../../../core/result.ts';
import { server } from '../../../../server/index.ts';
import { download, guarded } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** The newest build with its probes as plain Verilog; with `part=wrapper` the module that is to be filled in. */
export const GET = guarded(async (request) => {
  const wanted = new URL(request.url).searchParams.get('part') === 'wrapper' ? 'wrapper' : 'design';
  const { name, verilog } = taken(await (await server()).desks.probe.takeAlongNow(wanted));
  return download(name, 'text/plain; charset=utf-8', verilog);
});
