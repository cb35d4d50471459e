// The files of the project and their editor.
export { SourcesView } from './view.tsx';
