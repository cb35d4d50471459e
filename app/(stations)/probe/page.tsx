import { ProbeStation } from '../../../ui/probe/index.ts';

export default function Page() {
  return <ProbeStation />;
}
