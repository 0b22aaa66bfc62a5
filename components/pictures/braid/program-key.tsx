import { useWorkspace } from "@/components/draft/site-draft";
import type { BraidRun } from "./braid-data";
import { tintOf } from "./ribbons";

/** Which tone means which program. */
export function ProgramKey({ runs }: { runs: readonly BraidRun[] }) {
  const { draft } = useWorkspace("draft");
  const used = new Set(runs.map((r) => r.programId));
  const shown = draft.programs.map((p, i) => ({ p, i })).filter(({ p }) => used.has(p.id));
  if (shown.length < 2) return null;
  return (
    <ul aria-label="Tones of the programs" className="mt-1 flex flex-wrap gap-x-4 gap-y-0.5 pl-[52px] text-xs">
      {shown.map(({ p, i }) => (
        <li key={p.id} className="flex items-center gap-1.5">
          <span className="inline-block size-3" style={{ background: tintOf(i).fill }} aria-hidden />
          {p.name}
        </li>
      ))}
    </ul>
  );
}
