// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'bsdl-incomplete': ({ entity }: Told<'entity'>) => ({
    message: `The description of ${entity} does not say enough for boundary scan.`,
    tryNext: ['Run "nimble bsdl check" on its file.'],
  }),
});
