"use client";
import { useTaughtSets } from "@/components/data/use-taught-sets";
import { TAUGHT_BY_NIGHTS } from "@/core/judge/taught-sets";

/** By what it is known what sets draw, where nights have read them; nothing where none has. */
export function TaughtLine() {
  const sets = useTaughtSets();
  const read = sets.filter((s) => s.nights >= TAUGHT_BY_NIGHTS).length;
  if (read === 0) return null;
  return (
    <span className="text-faint">
      {read === sets.length
        ? "What sets draw is what nights read of them"
        : `What ${read} of the ${sets.length} sets draw is what nights read of them, of the others what the network leaves them`}
      ; the controller itself adds its stations up.
    </span>
  );
}
