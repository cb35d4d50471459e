// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../core/result.ts';

export const problem = saying({
  host: ({ host }: Told<'host'>) => ({
    message: `This server does not go by the name ${host}.`,
    tryNext: ['Open it as http://127.0.0.1, or name the host in NIMBLE_HOSTS.'],
  }),
  method: ({ method }: Told<'method'>) => ({
    message: `${method} is not understood here.`,
    tryNext: ['Use GET, HEAD or POST.'],
  }),
  'not-page': () => ({
    message: 'Files are made for pages of this server, and for requests that say so.',
    tryNext: ['Use the links of the page; a script adds the header x-nimble-page: 1.'],
  }),
  origin: () => ({
    message: 'Requests from pages of another origin are refused.',
    tryNext: ['Use the page this server sends.'],
  }),
  'sign-in': () => ({
    message: 'This workbench wants to know who you are.',
    tryNext: ['Sign in with its token, then try again.'],
  }),
});
