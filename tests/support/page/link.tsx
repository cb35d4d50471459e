// A link of the page, for components by themselves.
import type { ComponentProps } from 'react';
import { goTo } from './navigation.ts';

export default function Link({ href, onClick, ...rest }: ComponentProps<'a'>) {
  return (
    <a
      href={href}
      onClick={(event) => {
        event.preventDefault();
        onClick?.(event);
        goTo(href ?? '');
      }}
      {...rest}
    />
  );
}
