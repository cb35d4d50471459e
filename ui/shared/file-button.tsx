'use client';
import { type ReactNode, useRef } from 'react';
import { Button } from './button.tsx';

interface Props {
  /** Name of the input, for those who do not see the button. */
  readonly label: string;
  /** Ends of names that are offered; without it any. */
  readonly accept?: string;
  readonly title?: string;
  readonly testId?: string;
  readonly className?: string;
  readonly disabled?: boolean;
  readonly look?: 'plain' | 'quiet';
  readonly children: ReactNode;
}

type OneOrMany =
  | { readonly onFile: (file: File) => void; readonly multiple?: never; readonly onFiles?: never }
  | { readonly onFiles: (files: readonly File[]) => void; readonly multiple: true; readonly onFile?: never };

/** A button that asks for a file, or for several. The same one may be chosen again. */
export function FileButton({
  label,
  accept,
  title,
  testId,
  className,
  disabled = false,
  look = 'quiet',
  onFile,
  onFiles,
  multiple,
  children,
}: Props & OneOrMany) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        multiple={multiple ?? false}
        className="hidden"
        data-testid={testId}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          const [file] = files;
          if (file && onFile) onFile(file);
          else if (file && onFiles) onFiles(files);
        }}
      />
      <Button
        look={look}
        className={className}
        disabled={disabled}
        onClick={() => input.current?.click()}
        title={title}
      >
        {children}
      </Button>
    </>
  );
}
