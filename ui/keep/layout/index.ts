// What lies where in the flash.
export { LayoutView } from './view.tsx';
