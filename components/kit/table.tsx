import type { ComponentProps } from "react";
import { classes } from "./classes";

/** A short table whose rows neither sort nor select; DataTable is for all others. Heads stay in sight; numbers stand right in cells of class `text-right`. */
export function Table({ className, ...rest }: ComponentProps<"table">) {
  return <table className={classes("table table-sm", className)} {...rest} />;
}

/** The head of a column of buttons: nothing to be seen, words for readers. */
export function ToolsHead() {
  return (
    <th>
      <span className="sr-only">What can be done</span>
    </th>
  );
}
