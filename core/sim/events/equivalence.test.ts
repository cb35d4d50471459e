// Hardware and simulation read one design: what the fabric does and what the event simulator does agree bit by bit
// wherever nothing is unknown. `npm run equivalence` tries more.
import { expect, test } from 'vitest';
import { differenceOf } from '../../../tests/support/equivalence.ts';

const DESIGNS = 2000;
const AT_ONCE = 100;

test.each(Array.from({ length: DESIGNS / AT_ONCE }, (_, i) => i * AT_ONCE + 1))(
  'random designs from seed %i on',
  (first) => {
    for (let seed = first; seed < first + AT_ONCE; seed++) expect(differenceOf(seed)).toBeNull();
  },
);
