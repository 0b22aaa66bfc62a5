"use client";
import { classes } from "./classes";
import { BranchIcon } from "./icons";

export type Branch<T extends string> = { id: T; label: string; count?: number | null };

/** The views of a screen, as small branches of its pipe: the one kind of sub-navigation. Arrows go from one to the next. */
export function Branches<T extends string>({
  label,
  views,
  at,
  onChange,
}: {
  label: string;
  views: readonly Branch<T>[];
  at: T;
  onChange: (id: T) => void;
}) {
  const step = (by: number, from: HTMLElement): void => {
    const next = views[(views.findIndex((v) => v.id === at) + by + views.length) % views.length];
    if (!next) return;
    onChange(next.id);
    from.parentElement?.querySelector<HTMLElement>(`[data-view="${next.id}"]`)?.focus();
  };
  return (
    <div role="tablist" aria-label={label} className="tabs flex-nowrap overflow-x-auto">
      {views.map((v) => (
        <button
          key={v.id}
          type="button"
          role="tab"
          data-view={v.id}
          aria-selected={v.id === at}
          tabIndex={v.id === at ? 0 : -1}
          className={classes("tab tab-branch", v.id === at && "tab-active font-semibold")}
          onClick={() => onChange(v.id)}
          onKeyDown={(e) => {
            if (e.key === "ArrowRight") step(1, e.currentTarget);
            if (e.key === "ArrowLeft") step(-1, e.currentTarget);
          }}
        >
          <BranchIcon className="size-4 shrink-0" open={v.id === at} />
          {v.label}
          {v.count ? <span className="badge badge-sm badge-plain">{v.count}</span> : null}
        </button>
      ))}
    </div>
  );
}
