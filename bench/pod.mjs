import { register } from 'tsx/esm/api';

register();
await import('./pod.ts');
