import { setPriority } from "node:os";
import { type Tasks, tasks } from "./tasks.ts";

// Of this thread alone, as Linux counts: while everything is busy the threads that answer requests come first.
const nice = Number(process.env["PRESA_NICE"]);
if (nice > 0) setPriority(0, nice);

/** What a thread does: one task by its name. */
export default function thread({ name, args }: { name: keyof Tasks; args: never[] }): unknown {
  return (tasks[name] as (...given: never[]) => unknown)(...args);
}
