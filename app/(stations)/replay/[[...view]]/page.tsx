import { Suspense } from 'react';
import { ReplayStation } from '../../../../ui/replay/index.ts';

/** The address may name what is to be seen and a capture, which is known only in the browser. */
export default async function Page({ params }: { readonly params: Promise<{ view?: string[] }> }) {
  const view = (await params).view?.[0] ?? 'record';
  return (
    <Suspense>
      <ReplayStation view={view} />
    </Suspense>
  );
}
