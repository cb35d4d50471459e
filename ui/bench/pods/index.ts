// Which pod is used, and which others are known.
export { PodsView } from './view.tsx';
