import { KeepStation } from '../../../ui/keep/index.ts';

export default function Page() {
  return <KeepStation />;
}
