'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type MouseEvent, useState } from 'react';
import type { CompareSource } from '../../../server/index.ts';
import {
  upload,
  Button,
  clockTime,
  dateTime,
  Empty,
  quantity,
  Section,
  useAct,
  useLatestJob,
  useLive,
  useImages,
  api,
  Select,
  FileButton,
} from '../../shared/index.ts';
import { chosenName } from '../chosen.ts';
import { Bytes } from './bytes.tsx';

const keyOf = (source: CompareSource): string => (source.kind === 'image' ? `image ${source.id}` : source.kind);

/** The flash with a file, or two files. */
export function CompareView() {
  const state = useLive('pod', 'comparison', 'keepChoice');
  const { act } = useAct();
  const cache = useQueryClient();
  const images = useImages();
  const [sides, setSides] = useState<readonly [CompareSource, CompareSource]>([{ kind: 'flash' }, { kind: 'chosen' }]);
  const busy = useLatestJob('keep', 'power', 'flash')?.endedAt === null;
  const options: readonly (readonly [CompareSource, string])[] = [
    [{ kind: 'flash' }, 'the flash as it is now'],
    [{ kind: 'chosen' }, chosenName(state)],
    ...images.map(({ id, name, added }) => [{ kind: 'image', id }, `${name}, ${dateTime(added)}`] as const),
  ];
  const choose = (side: 0 | 1, key: string) => {
    const found = options.find(([source]) => keyOf(source) === key)?.[0];
    if (found) setSides(side === 0 ? [found, sides[1]] : [sides[0], found]);
  };
  const add = async (file: File) => {
    const added = await act(() => upload<{ id: number }>('/api/images?for=flash', file));
    if (!added) return;
    await cache.invalidateQueries({ queryKey: ['images'] });
    setSides([sides[0], { kind: 'image', id: added.id }]);
  };
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-2 text-sm">
        {([0, 1] as const).map((side) => (
          <Select
            size="normal"
            className="max-w-72"
            key={side}
            aria-label={side === 0 ? 'Compare' : 'with'}
            value={keyOf(sides[side])}
            onChange={(event) => choose(side, event.target.value)}
          >
            {options.map(([source, name]) => (
              <option key={keyOf(source)} value={keyOf(source)}>
                {name}
              </option>
            ))}
          </Select>
        ))}
        <Button
          look="main"
          disabled={busy || keyOf(sides[0]) === keyOf(sides[1]) || state?.pod.state !== 'connected'}
          onClick={() => act(() => api.jobs.start.mutate({ kind: 'compare', sources: sides }))}
        >
          Compare
        </Button>
        <FileButton label="File to compare" look="plain" testId="compare-file" onFile={(file) => void add(file)}>
          Add a file
        </FileButton>
      </div>
      {state?.comparison ? (
        <Found key={state.comparison.time} comparison={state.comparison} />
      ) : (
        <Empty>Choose two sides. Of the flash is read what the other side has data for.</Empty>
      )}
    </>
  );
}

type Comparison = NonNullable<NonNullable<ReturnType<typeof useLive>>['comparison']>;

function Found({ comparison }: { readonly comparison: Comparison }) {
  const { time, names, end, sectorBytes, bytesDiffer, places } = comparison;
  const [at, setAt] = useState(0);
  const answer = useQuery({
    queryKey: ['compare', time],
    queryFn: () => api.keep.comparison.query(),
  }).data;
  const found = answer ?? null;
  const list = found?.places ?? [];
  const start = list[at]?.[0] ?? 0;
  const sectors = Math.ceil(end / sectorBytes);
  const jump = (event: MouseEvent<HTMLButtonElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const address = Math.floor(((event.clientX - box.left) / box.width) * sectors) * sectorBytes;
    const next = list.findIndex(([place, length]) => place + length > address);
    if (next >= 0) setAt(next);
  };
  return (
    <Section
      className="flex min-h-0 flex-1 flex-col"
      title={`${names[0]} and ${names[1]}`}
      aside={`compared at ${clockTime(time)}`}
    >
      <p className="tabular mb-1 text-sm" data-testid="comparison">
        {places === 0 ? (
          <span className="text-good">The same data at the same addresses.</span>
        ) : (
          <>
            {bytesDiffer.toLocaleString('en')} of {end.toLocaleString('en')} bytes differ, at{' '}
            {places.toLocaleString('en')} {places === 1 ? 'place' : 'places'} in {found?.sectors.length ?? '…'} of{' '}
            {sectors.toLocaleString('en')} sectors of {quantity(sectorBytes, 'B')}.
          </>
        )}
      </p>
      <button
        type="button"
        className="mb-2 block h-6 w-full shrink-0 border border-line bg-raised"
        title="Jump to the sector under the pointer"
        aria-label={`${found?.sectors.length ?? 0} of ${sectors} sectors differ; jumps to the one under the pointer`}
        data-testid="sector-strip"
        onClick={jump}
      >
        <svg
          viewBox={`0 0 ${Math.max(1, sectors)} 20`}
          preserveAspectRatio="none"
          className="h-full w-full"
          aria-hidden="true"
        >
          {Array.from({ length: Math.ceil(sectors / 16) }, (_, i) => (
            <line
              // biome-ignore lint/suspicious/noArrayIndexKey: a line is its place
              key={i}
              x1={i * 16}
              x2={i * 16}
              y1={0}
              y2={20}
              stroke="var(--color-line)"
              strokeWidth={1}
              vectorEffect="non-scaling-stroke"
            />
          ))}
          {found?.sectors.map((sector) => (
            <rect key={sector} x={sector} y={3} width={1} height={14} fill="var(--color-signal)" />
          ))}
        </svg>
      </button>
      {places > 0 && (
        <div className="mb-2 flex items-center gap-2 text-sm">
          <Button disabled={at === 0} onClick={() => setAt(at - 1)}>
            Difference before
          </Button>
          <Button disabled={at + 1 >= list.length} onClick={() => setAt(at + 1)}>
            Next difference
          </Button>
          <span className="tabular text-quiet">
            {(at + 1).toLocaleString('en')} of {list.length.toLocaleString('en')}
            {list.length < places ? ` (the first of ${places.toLocaleString('en')})` : ''}, at{' '}
            <span className="code">0x{start.toString(16).toUpperCase()}</span>, {list[at]?.[1].toLocaleString('en')}{' '}
            bytes
          </span>
        </div>
      )}
      <Bytes time={time} names={names} end={end} at={start} />
    </Section>
  );
}
