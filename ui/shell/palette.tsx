'use client';
import { Command } from 'cmdk';
import { useRouter } from 'next/navigation';
import { Dialog } from 'radix-ui';
import { useEffect, useState } from 'react';
import { send, useAct } from '../shared/index.ts';
import { STATIONS } from './stations.ts';

const ACTIONS = [
  { name: 'Scan the chain', kind: 'scan', path: '/bench' },
  { name: 'Build the design', kind: 'build', path: '/design' },
  { name: 'Load the newest build', kind: 'load', path: '/load' },
  { name: 'Power-cycle the board', kind: 'rehearse', path: '/keep' },
] as const;

const KEYS = [
  ['Ctrl K', 'commands'],
  ['Alt 1 to Alt 8', 'go to a station, in their order'],
  ['?', 'this list'],
] as const;

/** Everything by keyboard: a list of commands, keys for the stations, and the list of keys itself. */
export function Palette() {
  const [open, setOpen] = useState<'commands' | 'keys' | null>(null);
  const router = useRouter();
  const { act } = useAct();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof HTMLElement &&
        (event.target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName));
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setOpen('commands');
      } else if (event.altKey && /^[1-8]$/.test(event.key)) {
        event.preventDefault();
        router.push(STATIONS[Number(event.key) - 1]?.path ?? '/bench');
      } else if (event.key === '?' && !typing) setOpen('keys');
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [router]);
  const close = () => setOpen(null);
  return (
    <Dialog.Root open={open !== null} onOpenChange={(next) => !next && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-28 left-1/2 w-[34rem] max-w-[92vw] -translate-x-1/2 border border-quiet bg-raised p-3 shadow-lg"
        >
          <Dialog.Title className="mb-2 font-bold">{open === 'keys' ? 'Keys' : 'Commands'}</Dialog.Title>
          {open === 'keys' ? (
            <dl className="grid grid-cols-[10rem_minmax(0,1fr)] gap-y-1 text-sm">
              {KEYS.map(([key, what]) => (
                <div key={key} className="contents">
                  <dt className="tabular">{key}</dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          ) : (
            <Command label="Commands">
              <Command.Input
                autoFocus
                placeholder="What shall be done?"
                className="mb-2 h-9 w-full border border-line bg-paper px-2"
              />
              <Command.List className="max-h-80 overflow-auto">
                <Command.Empty className="px-2 py-3 text-quiet text-sm">No command of that name.</Command.Empty>
                {ACTIONS.map(({ name, kind, path }) => (
                  <Command.Item
                    key={kind}
                    onSelect={() => {
                      close();
                      router.push(path);
                      void act(() => send('/api/jobs', 'POST', { kind }));
                    }}
                    className="cursor-pointer px-2 py-1.5 data-[selected=true]:bg-well"
                  >
                    {name}
                  </Command.Item>
                ))}
                {STATIONS.map(({ path, name, verb }) => (
                  <Command.Item
                    key={path}
                    onSelect={() => {
                      close();
                      router.push(path);
                    }}
                    className="cursor-pointer px-2 py-1.5 data-[selected=true]:bg-well"
                  >
                    {name} <span className="text-quiet text-sm">{verb}</span>
                  </Command.Item>
                ))}
              </Command.List>
            </Command>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
