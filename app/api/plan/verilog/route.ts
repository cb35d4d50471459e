import { taken } from '../../../../core/result.ts';
import { server } from '../../../../server/index.ts';
import { download, guarded } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** The newest build with its probes as plain Verilog. */
export const GET = guarded(async () => {
  const { name, verilog } = taken(await (await server()).desks.probe.takeAlongNow());
  return download(name, 'text/plain; charset=utf-8', verilog);
});
