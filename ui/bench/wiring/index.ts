// The nets between devices, tested by boundary scan.
export { WiringView } from './view.tsx';
