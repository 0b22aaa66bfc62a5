import { CircleAlert, Info, OctagonAlert, TriangleAlert } from "lucide-react";
import { classes } from "./classes";

export type Tone = "alarm" | "caution" | "note";

const TONES: Record<Tone, { icon: typeof Info; border: string; text: string; word: string }> = {
  alarm: { icon: OctagonAlert, border: "border-error", text: "text-error", word: "Error" },
  caution: { icon: TriangleAlert, border: "border-warning", text: "text-warning", word: "Warning" },
  note: { icon: Info, border: "border-base-content", text: "", word: "Note" },
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

/** A few words that stand until what they say is over. Alarms are read out at once. */
export function Notice({
  tone = "note",
  className,
  children,
  ...rest
}: { tone?: Tone; className?: string; children: React.ReactNode } & React.AriaAttributes) {
  const { icon: Icon, border, text } = TONES[tone];
  return (
    <div
      role={tone === "alarm" ? "alert" : "status"}
      className={classes("alert alert-quiet border-l-4", border, className)}
      {...rest}
    >
      <Icon className={classes("size-[1.1em] shrink-0", text)} aria-hidden />
      <div className="min-w-0">{children}</div>
    </div>
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
