import type { ConfigStatus } from '../../core/families/index.ts';
import { Fact } from './layout.tsx';

/** The configuration status register in words. */
export function StatusFacts({ status }: { readonly status: ConfigStatus }) {
  const yes = (is: boolean) => (is ? 'yes' : 'no');
  return (
    <dl data-testid="status">
      <Fact name="DONE" tone={status.done ? 'good' : 'bad'}>
        {status.done ? 'high' : 'low'}
      </Fact>
      <Fact name="Came from">
        {status.source === 'none' ? 'nothing runs' : status.source === 'flash' ? 'flash' : 'JTAG'}
      </Fact>
      <Fact name="CRC" tone={status.crcError ? 'bad' : undefined}>
        {status.crcError ? 'error' : status.checked ? 'good' : 'not reached'}
      </Fact>
      <Fact name="IDCODE" tone={status.idcodeMismatch ? 'bad' : undefined}>
        {status.idcodeMismatch ? 'mismatch' : 'fits'}
      </Fact>
      <Fact name="Start word seen">{yes(status.startSeen)}</Fact>
      <Fact name="Memory clear">{status.memoryClear ? 'yes, or written' : 'no: being cleared'}</Fact>
      <Fact name="Boot switch">{status.bootSource === 'flash' ? 'flash' : 'JTAG'}</Fact>
      <Fact name="Register" code>
        {status.raw}
      </Fact>
    </dl>
  );
}
