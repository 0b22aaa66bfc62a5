const wordsOf = (text: string): string[] => text.toLowerCase().split(/\s+/).filter(Boolean);

/** A figure is meant as it stands, 3 is not 30; a word by how it begins or what it holds. */
const isMeant = (asked: string, word: string): boolean => (/^\d+$/.test(asked) ? word === asked : word.includes(asked));

/** Does a text hold what is asked for in one piece, words in that order beside each other? */
export function holdsPhrase(text: string, find: string): boolean {
  const [asked, words] = [wordsOf(find), wordsOf(text)];
  return words.some((_, at) => asked.every((a, i) => isMeant(a, words[at + i] ?? "")));
}

/** Does a text hold every word of what is asked for, wherever? */
export function holdsWords(text: string, find: string): boolean {
  const words = wordsOf(text);
  return wordsOf(find).every((a) => words.some((w) => isMeant(a, w)));
}

/**
 * What is found: everything where nothing is asked; those that bear what is asked for as their name, if there are any ("hall lawn 3" is not
 * "3 Hall lawn 1"); else those that hold every word of it.
 */
export function found<T>(items: T[], find: string, nameOf: (item: T) => string, allOf: (item: T) => string): T[] {
  if (wordsOf(find).length === 0) return items;
  const named = items.filter((item) => holdsPhrase(nameOf(item), find));
  return named.length > 0 ? named : items.filter((item) => holdsWords(allOf(item), find));
}
