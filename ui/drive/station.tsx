'use client';
import { DRIVE_VIEWS } from '../shared/index.ts';
import { LineView } from './line/index.ts';
import { PanelView } from './panel/index.ts';
import { TableView } from './table/index.ts';

const SHOW = { panel: PanelView, line: LineView, table: TableView } as const;

export function DriveStation({ view = 'panel' }: { readonly view?: string }) {
  const current = DRIVE_VIEWS.find((one) => one.id === view) ?? DRIVE_VIEWS[0];
  const View = SHOW[current.id];
  return <View hint={current.hint} />;
}
