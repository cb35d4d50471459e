'use client';
import { DRIVE_VIEWS } from '../shared/index.ts';
import { PanelView } from './panel/view.tsx';
import { TableView } from './table/view.tsx';

const SHOW = { panel: PanelView, table: TableView } as const;

export function DriveStation({ view = 'panel' }: { readonly view?: string }) {
  const current = DRIVE_VIEWS.find((one) => one.id === view) ?? DRIVE_VIEWS[0];
  const View = SHOW[current.id];
  return <View hint={current.hint} />;
}
