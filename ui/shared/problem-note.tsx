import { OctagonAlert } from 'lucide-react';
import type { Problem } from '../../core/result.ts';

/** What happened, and what to try, in order. */
export function ProblemNote({ problem }: { readonly problem: Problem }) {
  return (
    <div role="alert" className="mb-3 flex gap-3 border-bad border-l-4 bg-raised px-3 py-2">
      <OctagonAlert aria-hidden className="mt-0.5 size-4 shrink-0 text-bad" />
      <div className="min-w-0">
        <p className="font-bold">{problem.message}</p>
        {problem.tryNext.length > 0 && (
          <ol className="mt-1 list-decimal pl-5 text-quiet text-sm">
            {problem.tryNext.map((step) => (
              <li key={step}>{step}</li>
            ))}
          </ol>
        )}
      </div>
    </div>
  );
}
