'use client';
import { notifyManager, QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import { Toaster, toast } from 'sonner';
import { DescriptionDrop } from './description-drop.tsx';
import { BoardDock } from '../board/index.ts';
import { LiveProvider, ProblemNote, problemOf, UNREACHED, useLive, useReached } from '../shared/index.ts';
import { JobLine } from './job-line.tsx';
import { Palette } from './palette.tsx';
import { RefusedFiles } from './refused-files.tsx';
import { Track } from './track.tsx';

// A change is on the page before the next click or key, which would otherwise change what was there before it.
notifyManager.setScheduler(queueMicrotask);

/** What could not be read stays as it was; why is said once, however many asked for it. */
function tell(error: Error): void {
  const { message, tryNext } = problemOf(error);
  toast.error(message, { id: message, description: tryNext[0] });
}

function newQueries(): QueryClient {
  const queries = new QueryClient({
    queryCache: new QueryCache({ onError: (error, { meta }) => meta?.quiet !== true && tell(error) }),
    defaultOptions: {
      queries: { refetchOnWindowFocus: false, staleTime: Number.POSITIVE_INFINITY, retry: false },
    },
  });
  // Records are large, and come one after another; one whose view is saved late must not stay for its sake.
  queries.setQueryDefaults(['capture'], { gcTime: 5000 });
  return queries;
}

export function Workbench({ children }: { readonly children: ReactNode }) {
  const [queries] = useState(newQueries);
  return (
    <QueryClientProvider client={queries}>
      <LiveProvider>
        <div className="flex h-screen flex-col">
          <header className="flex shrink-0 border-line border-b bg-paper">
            <Mark />
            <Track />
          </header>
          <div className="flex min-h-0 flex-1">
            <main className="min-w-0 flex-1 overflow-auto px-5 py-4">
              <Unreached />
              <RefusedFiles />
              {children}
            </main>
            <BoardDock />
          </div>
          <JobLine />
        </div>
        <Palette />
        <DescriptionDrop />
        <Toaster
          position="bottom-left"
          offset={{ bottom: 56, left: 16 }}
          toastOptions={{
            style: {
              background: 'var(--color-raised)',
              color: 'var(--color-ink)',
              border: '1px solid var(--color-quiet)',
              borderRadius: 3,
            },
          }}
        />
      </LiveProvider>
    </QueryClientProvider>
  );
}

/** Without the server everything on the page is of before. */
function Unreached() {
  return useReached() === false ? <ProblemNote problem={UNREACHED} /> : null;
}

function Mark() {
  const project = useLive('project')?.project;
  return (
    <div className="flex w-44 shrink-0 flex-col justify-center border-line border-r px-4">
      <span className="font-bold text-lg leading-tight">Nimble Signal</span>
      <span className="truncate text-quiet text-sm">
        {project ? `${project.name}${project.part ? ` · ${project.part}` : ''}` : ' '}
      </span>
    </div>
  );
}
