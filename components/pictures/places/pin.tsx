"use client";
import { useStore } from "@xyflow/react";
import { classes } from "@/components/kit/classes";

/** A word over a stem whose foot is the place; of one size however near one looks. Without its word it is the foot alone. */
export function Pin({
  label,
  title,
  chosen,
  marked,
  className,
}: {
  label: string | null;
  title: string;
  chosen: boolean;
  /** Its foot is large and full, others' small and hollow. */
  marked?: boolean;
  className?: string;
}) {
  const zoom = useStore((s) => s.transform[2]);
  return (
    <div
      className={classes("flex origin-bottom flex-col items-center", className)}
      style={{ transform: `scale(${1 / zoom})` }}
      title={title}
    >
      {label !== null && (
        <>
          <span
            className={classes(
              "whitespace-nowrap border border-base-content px-1 text-xs font-semibold leading-4",
              chosen ? "bg-base-content text-base-100" : "bg-base-100 text-base-content",
            )}
          >
            {label}
          </span>
          <span className="h-2 w-0.5 bg-base-content" />
        </>
      )}
      <span
        className={classes(
          "-mt-0.5 rounded-full border border-base-content",
          marked === true ? "size-3 -mb-1.5 bg-base-content" : "size-2 -mb-1 bg-base-100",
        )}
      />
    </div>
  );
}
