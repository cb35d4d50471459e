// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying } from '../../core/result.ts';

export const problem = saying({
  'ir-unknown': () => ({
    message: 'The chain holds a device whose instruction length is not known.',
    tryNext: ['Read its BSDL file under Chain, or give its length.'],
  }),
});
