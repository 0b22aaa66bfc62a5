/** Room at the left for the hours, above for names, between channels, px. */
export const LEFT = 52;
export const TOP = 62;
export const GAP = 58;
