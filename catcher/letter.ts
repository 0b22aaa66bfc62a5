/** A letter that was caught. */
export type Letter = { at: string; from: string; to: string[]; subject: string; text: string };
