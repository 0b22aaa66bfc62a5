import { twMerge } from "tailwind-merge";

/** Class names joined; what is not there is left out, and a later one takes the place of an earlier of its kind. */
export const classes = (...names: (string | false | null | undefined)[]): string => twMerge(names);
