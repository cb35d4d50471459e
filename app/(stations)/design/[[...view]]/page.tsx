import { redirect } from 'next/navigation';
import { DesignStation } from '../../../../ui/design/index.ts';

export default async function Page({ params }: { readonly params: Promise<{ view?: string[] }> }) {
  const view = (await params).view?.[0] ?? 'sources';
  // Where tables of vectors stood before they were a part of Simulate.
  if (view === 'vectors') redirect('/design/simulate?with=table');
  return <DesignStation view={view} />;
}
