/** Two revisions of a site, or a site and another one, in words. @property changes from the first to the second; none: they do not differ */
export type Comparison = { from: string; to: string; changes: { path: string; words: string }[] };
