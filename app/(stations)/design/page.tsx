import { DesignStation } from '../../../ui/design/index.ts';

export default function Page() {
  return <DesignStation />;
}
