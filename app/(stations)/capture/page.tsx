import { CaptureStation } from '../../../ui/capture/index.ts';

export default function Page() {
  return <CaptureStation />;
}
