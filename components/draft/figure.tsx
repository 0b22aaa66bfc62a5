"use client";
import { NumberField } from "@/components/kit/fields";
import type { Patch } from "@/core/site-file/patch";
import type { Quantity } from "@/core/units/units";
import { useWorkspace } from "./site-draft";

/** What a figure of each quantity may be where nothing narrower is known, in base units. */
const RANGES: Record<Quantity, readonly [number, number]> = {
  flow: [0, 1_000_000],
  pressure: [0, 10_000],
  length: [0, 100_000],
  diameter: [5, 5000],
  volume: [0, 1e10],
  bulk: [0, 1e9],
  velocity: [0, 10],
  area: [0, 10_000_000],
  depth: [0.1, 500],
  rainRate: [0, 1000],
};

/** Members of a record that are figures. */
type FigureOf<T> = { [K in keyof T]-?: NonNullable<T[K]> extends number ? K : never }[keyof T];

/** One figure of a record: in the units shown, within its range, and closed to who only looks. */
export function Figure<T extends object>({
  of,
  at,
  put,
  disabled,
  min,
  max,
  ...rest
}: {
  of: T;
  at: FigureOf<T>;
  put: (values: Patch<T>) => void;
  label: string;
  hideLabel?: boolean;
  quantity?: Quantity;
  unit?: string;
  min?: number;
  max?: number;
  whole?: boolean;
  required?: boolean;
  /** What stands where nothing is entered. */
  usual?: number;
  whenEmpty?: number | undefined;
  placeholder?: string;
  hint?: string;
  disabled?: boolean;
  className?: string;
}) {
  const { units, canEdit } = useWorkspace("units", "canEdit");
  const { usual, quantity, ...field } = rest;
  const range = quantity ? RANGES[quantity] : ([] as const);
  const [least, most] = [min ?? range[0], max ?? range[1]];
  return (
    <NumberField
      {...field}
      {...(quantity ? { quantity, system: units } : {})}
      {...(least === undefined ? {} : { min: least })}
      {...(most === undefined ? {} : { max: most })}
      value={(of[at] as number | undefined) ?? usual}
      disabled={!canEdit || disabled === true}
      onCommit={(v) => put({ [at]: v } as Patch<T>)}
    />
  );
}
