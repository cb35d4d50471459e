import { DriveStation } from '../../../../ui/drive/index.ts';

export default async function Page({ params }: { readonly params: Promise<{ view?: string[] }> }) {
  return <DriveStation view={(await params).view?.[0] ?? 'panel'} />;
}
