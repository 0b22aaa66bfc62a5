"use client";
import { X } from "lucide-react";
import { useEffect, useId, useRef } from "react";
import { IconButton } from "./button";
import { classes } from "./classes";

/** A question or a help page over the screen. Escape and the cross close it; focus goes back where it was. */
export function Dialog({
  title,
  open,
  onClose,
  wide,
  children,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  wide?: boolean;
  children: React.ReactNode;
}) {
  const box = useRef<HTMLDialogElement>(null);
  const id = useId();
  useEffect(() => {
    const dialog = box.current;
    if (!dialog) return;
    if (open && !dialog.open) dialog.showModal();
    if (!open && dialog.open) dialog.close();
  }, [open]);
  return (
    <dialog ref={box} className="modal" aria-labelledby={id} onClose={onClose}>
      {open && (
        <div className={classes("modal-box", wide && "max-w-4xl")}>
          <div className="flex items-start justify-between gap-4 mb-3">
            <h2 id={id} className="text-xl">
              {title}
            </h2>
            <IconButton label="Close" icon={X} onClick={onClose} />
          </div>
          {children}
        </div>
      )}
    </dialog>
  );
}
