import { LogbookStation } from '../../../ui/logbook/index.ts';

export default function Page() {
  return <LogbookStation />;
}
