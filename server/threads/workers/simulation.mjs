import { register } from 'tsx/esm/api';

register();
export default (await import('./simulation.ts')).default;
