/** A code of the file as words: `findAndIsolate` → `find and isolate`. */
export const codeWords = (code: string): string => code.replace(/([A-Z])/g, " $1").toLowerCase();
