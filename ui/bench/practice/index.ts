// Faults that a simulated bench can be given, to practise on.
export { PracticeView } from './view.tsx';
