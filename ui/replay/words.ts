// How names are shown on the page.

/** A name without the top module, which all names share. */
export const inside = (name: string): string => name.slice(name.indexOf('.') + 1);
