import type { ComponentProps } from "react";
import { classes } from "./classes";

/** How far something is; without a value, that it goes on. */
export function Progress({ className, ...rest }: ComponentProps<"progress">) {
  return <progress className={classes("progress", className)} {...rest} />;
}
