// What answers on the chain, beside what is expected to.
export { ChainView } from './view.tsx';
