// Single steps at the flash: read, erase, fill, program, compare.
export { StepsView } from './view.tsx';
