const patterns = new Map<string, readonly RegExp[]>();

/** True where a text has all the words of a filter, in any order; `*` stands for anything, case does not matter. */
export function matches(text: string, filter: string): boolean {
  let words = patterns.get(filter);
  if (!words) {
    words = filter
      .trim()
      .split(/\s+/)
      .filter((word) => word !== '')
      .map((word) => new RegExp(word.replace(/[.+?^${}()|[\]\\]/g, '\\$&').replaceAll('*', '.*'), 'i'));
    if (patterns.size > 50) patterns.clear();
    patterns.set(filter, words);
  }
  return words.every((word) => word.test(text));
}
