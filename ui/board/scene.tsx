import { canalLock } from './lock-state.ts';
import { LockPicture } from './lock.tsx';

/** Something at the end of a board's wires that its pod brings; what is not known here is not drawn. */
export function Scene({ scene, state }: { readonly scene: string; readonly state: Readonly<Record<string, unknown>> }) {
  if (scene !== 'canal-lock') return null;
  const lock = canalLock.safeParse(state);
  return lock.success ? <LockPicture lock={lock.data} /> : null;
}
