'use client';
import { Button, useFollowFiles, useRefused, useSaveFile, useTakeUpUnsaved, useWaiting } from '../shared/index.ts';

/**
 * Keeps the page's files as the server's; those that could not be saved each with the choice which text is to be kept.
 */
export function RefusedFiles() {
  useFollowFiles();
  useTakeUpUnsaved();
  const refused = useRefused();
  const { waits } = useWaiting();
  const { save, drop } = useSaveFile();
  const waiting = waits.length > 0 && (
    <div key="waiting" role="status" className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">
      <b>Not saved yet: {waits.join(', ')}.</b> What you typed is kept in this browser, also when the page is closed,
      and is saved as soon as the server answers.
    </div>
  );
  const choices = refused.map(({ name, refused: { code, message, tryNext } }) => (
    <div key={name} role="alert" className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">
      <p>
        <b>{message}</b> {code === 'file-changed' ? 'What you typed is here and not on the server.' : tryNext[0]}
      </p>
      <div className="mt-1 flex gap-2">
        <Button onClick={() => void save(name, true)}>
          {code === 'file-changed' ? 'Save mine over it' : 'Save again'}
        </Button>
        <Button look="quiet" onClick={() => void drop(name)}>
          Take the other text
        </Button>
      </div>
    </div>
  ));
  return (
    <>
      {waiting}
      {choices}
    </>
  );
}
