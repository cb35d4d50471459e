import { clsx } from 'clsx';
import type { Severity } from '../../../core/hdl/index.ts';

const TONE: Readonly<Record<Severity, string>> = {
  error: 'text-bad',
  serious: 'text-bad',
  warning: 'text-doubt',
  info: 'text-quiet',
};

export const ORDER: Readonly<Record<Severity, number>> = { error: 0, serious: 1, warning: 2, info: 3 };

export const SeverityWord = ({ of }: { readonly of: Severity }) => (
  <span className={clsx(of === 'info' ? '' : 'font-bold', TONE[of])}>{of}</span>
);
