import { Button } from "./button";
import { classes } from "./classes";

export type Segment<T extends string> = { id: T; label: React.ReactNode; disabled?: boolean; title?: string };

/** A few ways to see one thing, side by side: one of them is pressed. */
export function Segments<T extends string>({
  label,
  options,
  at,
  onChange,
  className,
}: {
  label: string;
  options: readonly Segment<T>[];
  at: T | null;
  onChange: (id: T) => void;
  className?: string;
}) {
  return (
    <div role="group" aria-label={label} className={classes("join", className)}>
      {options.map((o) => (
        <Button
          key={o.id}
          rank={o.id === at ? "main" : "plain"}
          className="join-item"
          aria-pressed={o.id === at}
          disabled={o.disabled}
          title={o.title}
          onClick={() => onChange(o.id)}
        >
          {o.label}
        </Button>
      ))}
    </div>
  );
}

/** Several of a few: each pressed or not. */
export function MultiSegments<T extends string>({
  label,
  options,
  on,
  disabled,
  onChange,
}: {
  label: string;
  options: readonly { id: T; label: string; name?: string }[];
  on: readonly T[];
  disabled?: boolean | undefined;
  onChange: (on: T[]) => void;
}) {
  return (
    <div role="group" aria-label={label} className="join max-w-full overflow-x-auto">
      {options.map((o) => {
        const pressed = on.includes(o.id);
        return (
          <Button
            key={o.id}
            rank={pressed ? "main" : "plain"}
            className="join-item px-2"
            aria-pressed={pressed}
            aria-label={o.name}
            disabled={disabled}
            onClick={() =>
              onChange(options.map((x) => x.id).filter((id) => (id === o.id ? !pressed : on.includes(id))))
            }
          >
            {o.label}
          </Button>
        );
      })}
    </div>
  );
}
