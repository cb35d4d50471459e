'use client';

/** Says of a word why it was not taken. */
export const WrongParameter = ({ word }: { readonly word: string }) => (
  <span className="text-bad text-sm" role="alert">
    "{word}" is no parameter: write NAME=VALUE with a decimal, 0x or 0b value.
  </span>
);
