'use client';
import { Switch } from 'radix-ui';
import { Empty, useAct, useBoard, api } from '../../shared/index.ts';

/** Faults that this bench can show. Nothing on the page says more about them than the board would. */
export function PracticeView() {
  const board = useBoard();
  const { act } = useAct();
  if (!board || board.faults.length === 0)
    return (
      <Empty>
        {board ? 'This pod owns a real board: nothing can be made to fail from here.' : 'No pod is connected.'}
      </Empty>
    );
  return (
    <>
      <p className="mb-2 max-w-[60ch] text-sm">
        Switch a fault on and find it as you would at the desk: scan, climb the ladder, load, test the wiring. Switching
        it off mends it.
      </p>
      <ul className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        {board.faults.map(({ name, label, on }) => (
          <li key={name} className="flex items-center justify-between border-line border-b py-1.5 text-sm">
            <label htmlFor={`fault-${name}`}>
              {label} <span className="code text-quiet text-xs">{name}</span>
            </label>
            <Switch.Root
              id={`fault-${name}`}
              checked={on}
              onCheckedChange={(next) => act(() => api.bench.setFault.mutate({ name, on: next }))}
              className={`h-5 w-9 rounded-[3px] border border-quiet p-0.5 ${on ? 'bg-bad' : 'bg-raised'}`}
            >
              <Switch.Thumb className={`block size-3.5 rounded-[2px] ${on ? 'ml-auto bg-raised' : 'bg-quiet'}`} />
            </Switch.Root>
          </li>
        ))}
      </ul>
    </>
  );
}
