import { Suspense } from 'react';
import { ProbeStation } from '../../../ui/probe/index.ts';

/** The address may name a signal to look for, which is known only in the browser. */
export default function Page() {
  return (
    <Suspense>
      <ProbeStation />
    </Suspense>
  );
}
