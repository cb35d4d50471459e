'use client';
import { useQuery } from '@tanstack/react-query';
import { Command } from 'cmdk';
import { usePathname, useRouter } from 'next/navigation';
import { Dialog } from 'radix-ui';
import { type ReactNode, useEffect, useState } from 'react';
import { useAct, useLive, usePowered, useStart, api } from '../shared/index.ts';
import { cancellable, verbsFor } from './commands.ts';
import { keysAt } from './keys.ts';
import { STATIONS, VIEWS } from './stations.ts';

/** Everything by keyboard: a list of commands, keys for the stations, and the list of keys itself. */
export function Palette() {
  const [open, setOpen] = useState<'commands' | 'keys' | null>(null);
  const router = useRouter();
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
        <Dialog.Overlay className="fixed inset-0 bg-ink/25 dark:bg-paper/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-28 left-1/2 w-[34rem] max-w-[92vw] -translate-x-1/2 border border-quiet bg-raised p-3 shadow-lg"
        >
          <Dialog.Title className="mb-2 font-bold">{open === 'keys' ? 'Keys' : 'Commands'}</Dialog.Title>
          {open === 'keys' ? <KeyList /> : <CommandList onDone={close} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function KeyList() {
  return (
    <dl className="grid grid-cols-[10rem_minmax(0,1fr)] gap-y-1 text-sm">
      {keysAt(usePathname()).map(([key, what]) => (
        <div key={`${key} ${what}`} className="contents">
          <dt className="tabular">{key}</dt>
          <dd>{what}</dd>
        </div>
      ))}
    </dl>
  );
}

function CommandList({ onDone }: { readonly onDone: () => void }) {
  const router = useRouter();
  const { act } = useAct();
  const start = useStart();
  const state = useLive('pod', 'jobs', 'project');
  const powered = usePowered();
  const projects = useQuery({
    queryKey: ['projects', state?.project?.id ?? 0, state?.project?.name],
    queryFn: () => api.project.list.query(),
  }).data?.projects;
  const go = (path: string) => {
    onDone();
    router.push(path);
  };
  return (
    <Command label="Commands">
      <Command.Input
        autoFocus
        placeholder="What shall be done?"
        className="mb-2 h-9 w-full border border-line bg-paper px-2"
      />
      <Command.List className="max-h-80 overflow-auto">
        <Command.Empty className="px-2 py-3 text-quiet text-sm">No command of that name.</Command.Empty>
        {cancellable(state?.jobs ?? []).map(({ id, title }) => (
          <Item
            key={`cancel ${id}`}
            onSelect={() => {
              onDone();
              void act(() => api.jobs.cancel.mutate({ id }));
            }}
          >
            Cancel <span className="text-quiet text-sm">{title}</span>
          </Item>
        ))}
        {verbsFor(state?.pod.capabilities ?? null, powered).map(({ name, path, order }) => (
          <Item
            key={name}
            onSelect={() => {
              go(path);
              if (order) void start(order);
            }}
          >
            {name}
          </Item>
        ))}
        {STATIONS.map(({ path, name, verb }) => (
          <Item key={path} onSelect={() => go(path)}>
            {name} <span className="text-quiet text-sm">{verb}</span>
          </Item>
        ))}
        {VIEWS.map(({ path, name, hint }) => (
          <Item key={path} onSelect={() => go(path)}>
            {name} <span className="text-quiet text-sm">{hint}</span>
          </Item>
        ))}
        {(projects ?? [])
          .filter(({ id }) => id !== state?.project?.id)
          .map(({ id, name }) => (
            <Item
              key={`project ${id}`}
              value={`Open ${name} ${id}`}
              onSelect={() => {
                onDone();
                void act(() => api.project.open.mutate({ id }));
              }}
            >
              Open {name} <span className="text-quiet text-sm">project no. {id}</span>
            </Item>
          ))}
      </Command.List>
    </Command>
  );
}

interface ItemProps {
  /** What is looked for in; the text itself where it is left out. */
  readonly value?: string;
  readonly onSelect: () => void;
  readonly children: ReactNode;
}

function Item({ value, onSelect, children }: ItemProps) {
  return (
    <Command.Item
      {...(value === undefined ? {} : { value })}
      onSelect={onSelect}
      className="cursor-pointer px-2 py-1.5 data-[selected=true]:bg-well"
    >
      {children}
    </Command.Item>
  );
}
