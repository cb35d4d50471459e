// The connection to a pod: kept up, made anew after a loss, handed out to one user at a time.
export { OWN_NAME, PodLink, type PodStatus } from './pod-link.ts';
