/** What a beat needs of a WebSocket; both ends have their own kind. */
interface BeatSocket {
  ping(): void;
  terminate(): void;
  on(event: 'pong' | 'close', listener: () => void): unknown;
}

const BEAT_MILLISECONDS = 2000;
const MOST_UNHEARD = 3;

/**
 * A pulled network cable says nothing: an end that does not answer a few pings is lost. docs/pod-protocol.md, section 2
 */
export function watchBeat(socket: BeatSocket): void {
  let unheard = 0;
  socket.on('pong', () => {
    unheard = 0;
  });
  const beat = setInterval(() => {
    if (unheard++ >= MOST_UNHEARD) return socket.terminate();
    socket.ping();
  }, BEAT_MILLISECONDS);
  socket.on('close', () => clearInterval(beat));
}
