"use client";
import { Check, Copy } from "lucide-react";
import { useState } from "react";
import { Button } from "./button";
import { Input } from "./inputs";

/** Something that is told once, to be copied: it cannot be looked up again. */
export function OnceTold({ label, text, children }: { label: string; text: string; children?: React.ReactNode }) {
  const [copied, setCopied] = useState(false);
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(text);
    setCopied(true);
  };
  return (
    <div className="border-l-4 border-base-content pl-3 my-2 max-w-2xl" role="status">
      <p className="mb-1">{children}</p>
      <div className="flex gap-2">
        <Input readOnly aria-label={label} value={text} onFocus={(e) => e.currentTarget.select()} />
        <Button icon={copied ? Check : Copy} onClick={() => void copy()}>
          {copied ? "Copied" : "Copy"}
        </Button>
      </div>
    </div>
  );
}
