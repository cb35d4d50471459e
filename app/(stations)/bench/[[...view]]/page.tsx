import { BenchStation } from '../../../../ui/bench/index.ts';

export default async function Page({ params }: { readonly params: Promise<{ view?: string[] }> }) {
  return <BenchStation view={(await params).view?.[0] ?? 'chain'} />;
}
