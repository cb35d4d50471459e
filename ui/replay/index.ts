// Replay: what to record so that everything else follows, every signal over a capture, and a capture as a testbench.
export { ReplayStation } from './station.tsx';
