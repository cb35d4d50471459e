import { ProblemError } from '../../core/result.ts';
import type { BytePort, Whereabouts } from './port.ts';
import { problem } from './problems.ts';

/** Opens a serial line. Rejects with `wire-path` where that does not go. */
export async function openSerial({ path, baud }: Whereabouts): Promise<BytePort> {
  // Its binary is asked for only where a wire is: a pod of a bench starts on any machine.
  const { SerialPort } = await import('serialport');
  const port = new SerialPort({ path, baudRate: baud, autoOpen: false, lock: true });
  await new Promise<void>((resolve, reject) => {
    port.open((error) => {
      if (error) reject(new ProblemError(problem('wire-path', { path, why: reasonOf(error.message) })));
      else resolve();
    });
  });
  let isClosing = false;
  // Each takes the place of the one before, as whoever speaks over the line changes.
  let hear: (bytes: Uint8Array) => void = () => {};
  let gone: (why: string) => void = () => {};
  const end = (why: string) => {
    if (isClosing) return;
    isClosing = true;
    gone(why);
  };
  port.on('data', (bytes: Buffer) => hear(new Uint8Array(bytes)));
  port.on('error', (error) => {
    end(reasonOf(error.message));
    port.close(() => {});
  });
  port.on('close', (error: Error | null) => end(error ? reasonOf(error.message) : 'the line was closed'));
  return {
    write: (bytes) => void port.write(bytes),
    close: () => {
      isClosing = true;
      if (port.isOpen) port.close(() => {});
    },
    onBytes: (listener) => {
      hear = listener;
    },
    onGone: (listener) => {
      gone = listener;
    },
  };
}

const reasonOf = (message: string): string => message.replace(/^Error:\s*/, '').replace(/\.$/, '');
