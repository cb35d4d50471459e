'use client';
import { type ReactNode, useRef } from 'react';
import { Button } from './button.tsx';

interface Props {
  /** Name of the input, for those who do not see the button. */
  readonly label: string;
  readonly accept: string;
  readonly title: string;
  readonly className?: string;
  readonly onFile: (file: File) => void;
  readonly children: ReactNode;
}

/** A quiet button that asks for a file. The same one may be chosen again. */
export function FileButton({ label, accept, title, className, onFile, children }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        className="hidden"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) onFile(file);
          event.target.value = '';
        }}
      />
      <Button look="quiet" className={className} onClick={() => input.current?.click()} title={title}>
        {children}
      </Button>
    </>
  );
}
