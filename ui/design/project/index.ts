// The project as a whole: its settings, others, zip in and out.
export { ProjectView } from './view.tsx';
