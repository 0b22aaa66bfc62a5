/** Of what is found, in the order in which it is told. */
export const FOUND_KINDS = ["site", "piece", "person", "alarm"] as const;
export type FoundKind = (typeof FOUND_KINDS)[number];
/** Something that is called as asked. @property about what it is and where, in words; @property at the address that leads to it */
export type Found = { kind: FoundKind; id: string; name: string; about: string; at: string };
export type FoundThings = { found: Found[] };
