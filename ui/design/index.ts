export { DesignStation } from './station.tsx';
export { useBuilds } from './queries.ts';
