import { KeepStation } from '../../../../ui/keep/index.ts';

export default async function Page({ params }: { readonly params: Promise<{ view?: string[] }> }) {
  return <KeepStation view={(await params).view?.[0] ?? 'write'} />;
}
