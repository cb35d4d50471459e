import { LoadStation } from '../../../ui/load/index.ts';

export default function Page() {
  return <LoadStation />;
}
