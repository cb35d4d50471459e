import type { Progress, Watch } from '../core/progress.ts';

const EVERY_MILLISECONDS = 100;
/** Time left is told once this much of the work has shown how fast it goes. */
const TELLING_SHARE = 0.02;

/**
 * Shows how far long work is on a terminal, in one line that is wiped at the end, with the time left; Ctrl-C asks the
 * work to stop where that is safe, a second one ends the process. Where standard error is no terminal nothing is
 * written.
 */
export function terminalWatch(screen: NodeJS.WriteStream = process.stderr): Watch & { end(): void } {
  let stopped = false;
  let shown = '';
  let last = 0;
  let phase = { name: '', since: 0 };
  const stop = () => {
    if (stopped) process.exit(130);
    stopped = true;
  };
  process.on('SIGINT', stop);
  const write = (text: string) => {
    if (!screen.isTTY || text === shown) return;
    screen.write(`\r${text.padEnd(shown.length)}${text === '' ? '\r' : ''}`);
    shown = text;
  };
  return {
    cancelled: () => stopped,
    report: (progress) => {
      const now = performance.now();
      if (progress.phase !== phase.name) phase = { name: progress.phase, since: now };
      if (now - last < EVERY_MILLISECONDS && progress.done < progress.total) return;
      last = now;
      write(progressLine(progress, now - phase.since));
    },
    end: () => {
      write('');
      process.off('SIGINT', stop);
    },
  };
}

/** One line of at most 78 characters: phase, share, amount and, once it can be told, the time left. */
function progressLine({ phase, done, total, unit }: Progress, milliseconds: number): string {
  if (total <= 0) return phase;
  const share = Math.min(1, done / total);
  const left = share > TELLING_SHARE && share < 1 ? ((milliseconds / share) * (1 - share)) / 1000 : null;
  const amount = `${done.toLocaleString('en')} of ${total.toLocaleString('en')} ${unit}`;
  const time = left === null ? '' : `, ${left < 1 ? '< 1' : Math.ceil(left).toLocaleString('en')} s left`;
  return `${phase} ${String(Math.floor(share * 100)).padStart(3)} %  ${amount}${time}`.slice(0, 78);
}
