"use client";
import { ChevronDown } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Button, type Icon, type Rank } from "./button";
import { classes } from "./classes";

/** A few things to do behind one word. Its head says what they are; none of them is hidden behind dots. */
export function Menu({
  label,
  name,
  icon,
  rank = "quiet",
  end,
  className,
  children,
}: {
  label: React.ReactNode;
  /** Its name for readers, where the label is more than words. */
  name?: string;
  icon?: Icon | undefined;
  rank?: Rank;
  /** Opens towards the left. */
  end?: boolean;
  className?: string;
  children: (close: () => void) => React.ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!open) return;
    const away = (e: Event): void => {
      if (!box.current?.contains(e.target as Node)) setOpen(false);
    };
    document.addEventListener("pointerdown", away);
    document.addEventListener("focusin", away);
    return () => {
      document.removeEventListener("pointerdown", away);
      document.removeEventListener("focusin", away);
    };
  }, [open]);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: Escape is heard from the parts inside
    <div
      ref={box}
      className={classes("dropdown", end && "dropdown-end", open && "dropdown-open", className)}
      onKeyDown={(e) => {
        if (e.key !== "Escape" || !open) return;
        e.stopPropagation();
        setOpen(false);
        box.current?.querySelector("button")?.focus();
      }}
    >
      <Button rank={rank} icon={icon} aria-expanded={open} aria-label={name} onClick={() => setOpen(!open)}>
        {label}
        <ChevronDown className="size-4" aria-hidden />
      </Button>
      {open && (
        <div className="dropdown-content z-40 mt-1 border border-base-content bg-base-100 p-1 min-w-52 flex flex-col items-stretch">
          {children(() => setOpen(false))}
        </div>
      )}
    </div>
  );
}
