"use client";
import { FileUp, type LucideIcon } from "lucide-react";
import { useRef } from "react";
import { Button } from "./button";
import { HiddenFileInput } from "./inputs";

/** A button that asks for a file; the same file may be chosen again. `name` is what readers call the chooser. */
export function FileButton({
  name,
  accept,
  rank,
  icon = FileUp,
  className,
  disabled,
  capture,
  onFile,
  children,
}: {
  name: string;
  accept: string;
  rank?: "plain" | "quiet";
  icon?: LucideIcon;
  className?: string;
  disabled?: boolean;
  /** On a phone: take a picture with this camera. */
  capture?: "environment";
  onFile: (file: File) => void;
  children: React.ReactNode;
}) {
  const chooser = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button
        rank={rank ?? "plain"}
        icon={icon}
        className={className}
        disabled={disabled}
        onClick={() => chooser.current?.click()}
      >
        {children}
      </Button>
      <HiddenFileInput
        ref={chooser}
        accept={accept}
        aria-label={name}
        capture={capture}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) onFile(file);
        }}
      />
    </>
  );
}
