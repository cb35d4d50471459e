import { register } from 'tsx/esm/api';

register();
export default (await import('./design.ts')).default;
