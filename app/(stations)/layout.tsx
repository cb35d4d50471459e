import type { ReactNode } from 'react';
import { Workbench } from '../../ui/shell/index.ts';

export default function StationsLayout({ children }: { readonly children: ReactNode }) {
  return <Workbench>{children}</Workbench>;
}
