'use client';
import { useReadDescription } from './descriptions.ts';
import { FileButton } from './file-button.tsx';

/** Takes the description of a device. */
export function DescriptionButton() {
  const read = useReadDescription();
  return (
    <FileButton
      label="BSDL file"
      accept=".bsd,.bsdl,.txt"
      look="plain"
      testId="bsdl-file"
      onFile={(file) => void read(file)}
    >
      Read a BSDL file
    </FileButton>
  );
}
