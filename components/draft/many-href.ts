import type { ManyChange } from "@/core/many/many-change";

/** The way to Many sites with a change that is begun here. */
export const manyHref = (change: ManyChange): string =>
  `/many?${new URLSearchParams({ change: JSON.stringify(change) })}`;
