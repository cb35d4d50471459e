export { LogbookStation } from './station.tsx';
