import { type Design, readDesign, type SourceFile } from '../hdl/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { VectorOptions } from './options.ts';

type Made = NonNullable<Design['top']>;

/**
 * What simulates an instance by itself: its module with the parameters that it has there. Of the clock that was named
 * for the whole design the same name counts where the module has such a port.
 */
export function aloneAs(files: readonly SourceFile[], options: VectorOptions, instance: string): Result<VectorOptions> {
  const { top } = readDesign(files, options);
  const path =
    top && (instance === top.path || instance.startsWith(`${top.path}.`) ? instance : `${top.path}.${instance}`);
  const made = top && path ? madeAt(top, path) : null;
  if (!made) return fail(problem('no-instance', { instance }));
  const parameters: Record<string, bigint> = {};
  for (const item of made.module.items) {
    if (item.kind !== 'parameter' || item.local) continue;
    const entity = made.scope.names.get(item.name);
    const value = entity?.kind === 'constant' ? entity.constant : null;
    if (value?.unknown !== 0n || value.real !== undefined)
      return fail(problem('instance-parameter', { instance, parameter: item.name }));
    parameters[item.name] = value.value;
  }
  const { clock, cells } = options;
  const hasClock = clock !== undefined && made.module.ports.some(({ name }) => name === clock);
  return ok({ top: made.module.name, parameters, ...(hasClock ? { clock } : {}), ...(cells ? { cells } : {}) });
}

function madeAt(made: Made, path: string): Made | null {
  if (made.path === path) return made;
  if (!path.startsWith(`${made.path}.`)) return null;
  for (const behaviour of made.behaviours)
    if (behaviour.kind === 'instances')
      for (const child of behaviour.made) {
        const found = madeAt(child, path);
        if (found) return found;
      }
  return null;
}
