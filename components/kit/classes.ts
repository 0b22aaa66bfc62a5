/** Class names joined; what is not there is left out. */
export const classes = (...names: (string | false | null | undefined)[]): string => names.filter(Boolean).join(" ");
