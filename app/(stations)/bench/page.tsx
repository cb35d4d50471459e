import { BenchStation } from '../../../ui/bench/index.ts';

export default function Page() {
  return <BenchStation />;
}
