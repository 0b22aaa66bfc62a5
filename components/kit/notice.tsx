import { CircleAlert, Info, OctagonAlert, TriangleAlert } from "lucide-react";
import { classes } from "./classes";

export type Tone = "alarm" | "caution" | "note";

const TONES: Record<Tone, { icon: typeof Info; text: string; word: string }> = {
  alarm: { icon: OctagonAlert, text: "text-error", word: "Error" },
  caution: { icon: TriangleAlert, text: "text-warning", word: "Warning" },
  note: { icon: Info, text: "", word: "Note" },
};

/** How serious something is: a shape beside its word, never colour alone. */
export function Mark({ tone, children }: { tone: Tone; children?: React.ReactNode }) {
  const { icon: Icon, text, word } = TONES[tone];
  return (
    <span className={classes("inline-flex items-baseline gap-1", text, tone !== "note" && "font-semibold")}>
      <Icon className="size-[1em] shrink-0 self-center" aria-hidden={children !== undefined} aria-label={word} />
      {children}
    </span>
  );
}

/** What is wrong with something just tried. */
export function Problem({ children, className }: { children: React.ReactNode; className?: string }) {
  return (
    <p role="alert" className={classes("text-error font-semibold flex gap-1.5 items-baseline", className)}>
      <CircleAlert className="size-[1em] shrink-0 self-center" aria-hidden />
      <span>{children}</span>
    </p>
  );
}

/** A caution where the step is: one line, never hiding the work (handbook#10-cautions). */
export function Caution({ children }: { children: React.ReactNode }) {
  return (
    <p className="border-l-4 border-warning pl-2 my-2 text-caution">
      <strong>Caution.</strong> {children}
    </p>
  );
}
