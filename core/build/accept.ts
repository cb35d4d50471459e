import type { Message } from '../hdl/index.ts';
import type { Acceptance, TextFile } from './project.ts';

/** A message, with the reason it was accepted for, where it was. */
export interface JudgedMessage extends Message {
  readonly accepted: string | null;
}

/** The line a message points at, as it stands in its source; empty where there is none. */
export function lineOf(files: readonly TextFile[], { file, line }: Pick<Message, 'file' | 'line'>): string {
  const text = files.find((f) => f.name === file)?.text;
  return text?.split('\n', line)[line - 1]?.trim() ?? '';
}

/**
 * Marks the messages that were accepted. One whose source line has changed since counts as new. Errors cannot be
 * accepted.
 */
export function judge(
  messages: readonly Message[],
  accepted: readonly Acceptance[],
  files: readonly TextFile[],
): JudgedMessage[] {
  const lines = new Map(files.map((file) => [file.name, file.text.split('\n')]));
  return messages.map((message) => {
    const line = lines.get(message.file)?.[message.line - 1]?.trim() ?? '';
    const found =
      message.severity === 'error'
        ? undefined
        : accepted.find(
            (a) =>
              a.code === message.code && a.file === message.file && a.message === message.message && a.line === line,
          );
    return { ...message, accepted: found?.reason ?? null };
  });
}
