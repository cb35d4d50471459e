// Writing as a whole: checks, plan, progress, rehearsal.
export { WriteActions } from './actions.tsx';
export { Question } from './question.tsx';
export { WriteView } from './view.tsx';
