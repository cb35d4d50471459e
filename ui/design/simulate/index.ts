// Testbenches: chosen and run, what they printed, what failed, and the waves of it.
export { SimulateView } from './view.tsx';
export { Waves } from './waves.tsx';
