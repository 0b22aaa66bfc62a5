/** `1 site`, `7 sites`. */
export const sitesWords = (n: number): string => `${n} site${n === 1 ? "" : "s"}`;
