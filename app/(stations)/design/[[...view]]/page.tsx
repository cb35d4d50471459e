import { DesignStation } from '../../../../ui/design/index.ts';

export default async function Page({ params }: { readonly params: Promise<{ view?: string[] }> }) {
  return <DesignStation view={(await params).view?.[0] ?? 'sources'} />;
}
