// The ladder of questions asked of a chain that does not answer as it should.
export { DiagnosisView } from './view.tsx';
