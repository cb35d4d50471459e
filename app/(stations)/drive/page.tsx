import { DriveStation } from '../../../ui/drive/index.ts';

export default function Page() {
  return <DriveStation />;
}
