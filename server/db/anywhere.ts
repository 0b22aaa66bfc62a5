/** A pattern for LIKE that finds a word anywhere in a text; wildcards in it are letters. */
export const anywhere = (word: string): string => `%${word.replace(/[\\%_]/g, "\\$&")}%`;
