// What stands before the application: who may come in, and what browsers are told of its pages. Knows neither the
// application nor React.
export { door } from './door.ts';
export { otherHosts, refusalOf } from './refusal.ts';
export { SignIn } from './sign-in.ts';
