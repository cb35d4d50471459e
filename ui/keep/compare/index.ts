// The flash beside an image: sectors, bytes, next difference.
export { CompareView } from './view.tsx';
