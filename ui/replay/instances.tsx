'use client';
import { useMemo, useState } from 'react';
import type { HierarchyNode } from '../../core/hdl/index.ts';
import { Checkbox, matches, TextInput } from '../shared/index.ts';

interface Props {
  readonly hierarchy: HierarchyNode;
  readonly see: readonly string[];
  readonly onSee: (see: readonly string[]) => void;
}

interface Line {
  readonly path: string;
  readonly name: string;
  readonly module: string;
  readonly depth: number;
}

const linesOf = ({ path, name, module, children }: HierarchyNode, depth = 0): Line[] => [
  { path, name, module, depth },
  ...children.flatMap((child) => linesOf(child, depth + 1)),
];

/** The instances of a design; those that are ticked are to be seen, with all within them. */
export function Instances({ hierarchy, see, onSee }: Props) {
  const [filter, setFilter] = useState('');
  const lines = useMemo(() => linesOf(hierarchy), [hierarchy]);
  const shown = lines.filter(({ path, module }) => matches(`${path} ${module}`, filter));
  const isWithin = (path: string) => see.some((one) => path.startsWith(`${one}.`));
  const toggle = (path: string) =>
    onSee(
      see.includes(path)
        ? see.filter((one) => one !== path)
        : [...see.filter((one) => !one.startsWith(`${path}.`)), path],
    );
  return (
    <div className="flex min-h-0 flex-col gap-1.5">
      <TextInput
        aria-label="Find an instance"
        placeholder="Find an instance"
        value={filter}
        onChange={(event) => setFilter(event.target.value)}
      />
      <ul aria-label="Instances" className="max-h-80 overflow-auto border border-line bg-raised py-1 text-sm">
        {shown.map(({ path, name, module, depth }) => (
          <li key={path} className="flex items-center gap-2 px-2 py-0.5" style={{ paddingLeft: 8 + 14 * depth }}>
            <Checkbox
              className="min-w-0"
              checked={see.includes(path) || isWithin(path)}
              disabled={isWithin(path)}
              onChange={() => toggle(path)}
            >
              <span className="truncate">{name}</span>
            </Checkbox>
            {module !== name && <span className="code ml-auto truncate text-quiet text-xs">{module}</span>}
          </li>
        ))}
        {shown.length === 0 && <li className="px-2 py-1 text-quiet">No instance is called so.</li>}
      </ul>
    </div>
  );
}
