/** What stands on an organisation's paper: a PNG or JPEG of at most a megabyte. `version` tells it from the one before. */
export const MOST_LOGO_BYTES = 1024 * 1024;
export type LogoFacts = { version: string; setBy: string; setAt: string } | null;
