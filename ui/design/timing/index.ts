// The longest ways, clock by clock.
export { TimingView } from './view.tsx';
