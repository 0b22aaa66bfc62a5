"use client";
import { Select } from "@/components/kit/inputs";

/** For how long a search may go on. */
export function SecondsField({
  value,
  options,
  disabled,
  onCommit,
}: {
  value: number;
  options: readonly number[];
  disabled: boolean;
  onCommit: (seconds: number) => void;
}) {
  return (
    <label className="inline-flex items-center gap-1">
      for at most{" "}
      <Select className="!w-20" value={value} disabled={disabled} onChange={(e) => onCommit(Number(e.target.value))}>
        {options.map((s) => (
          <option key={s} value={s}>
            {s} s
          </option>
        ))}
      </Select>
    </label>
  );
}
