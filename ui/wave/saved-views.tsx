'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { LayoutList, X } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import type { WaveView } from '../../core/wave/index.ts';
import { Button, useAct, api, TextInput, IconButton } from '../shared/index.ts';

interface Props {
  readonly current: () => WaveView | null;
  readonly onApply: (view: WaveView) => void;
}

const ITEM =
  'flex cursor-default items-center justify-between gap-4 px-3 py-1 text-sm outline-none data-[highlighted]:bg-well';

/** Rows, radixes, decoders and kept sentences under a name, for any record of the project. */
export function SavedViews({ current, onApply }: Props) {
  const queries = useQueryClient();
  const { act } = useAct();
  const [name, setName] = useState('');
  const views =
    useQuery({
      queryKey: ['wave-views'],
      queryFn: () => api.capture.views.query(),
    }).data ?? [];
  const put = (name: string, view: WaveView | null) =>
    act(() => api.capture.saveNamedView.mutate({ name, view })).then(() =>
      queries.invalidateQueries({ queryKey: ['wave-views'] }),
    );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button look="quiet" className="h-7 px-1!">
          <LayoutList aria-hidden className="size-4" /> Views
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="z-30 min-w-56 border border-line bg-raised py-1 shadow-md" align="start">
          {views.map(({ name, view }) => (
            <DropdownMenu.Item key={name} className={ITEM} onSelect={() => onApply(view)}>
              {name}
              <IconButton
                isRemoval
                label={`Forget view ${name}`}
                onClick={(event) => {
                  event.stopPropagation();
                  void put(name, null);
                }}
              >
                <X className="size-3.5" />
              </IconButton>
            </DropdownMenu.Item>
          ))}
          {views.length === 0 && <p className="px-3 py-1 text-quiet text-sm">No view has a name yet.</p>}
          <form
            className="mt-1 flex gap-1 border-line border-t px-3 pt-2 pb-1"
            onSubmit={(event) => {
              event.preventDefault();
              const view = current();
              if (view && name.trim() !== '') void put(name.trim(), view).then(() => setName(''));
            }}
          >
            <TextInput
              className="min-w-0 flex-1"
              placeholder="Name"
              aria-label="Name of the view"
              value={name}
              onChange={(event) => setName(event.target.value)}
              onKeyDown={(event) => event.stopPropagation()}
            />
            <Button type="submit" className="h-7" disabled={name.trim() === ''}>
              Save
            </Button>
          </form>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
