import type { ComponentProps } from "react";
import { classes } from "./classes";

/** The bare parts that fields are made of, in daisyUI's dress. Use a field of fields.tsx wherever a label stands beside it. */
export function Input({ className, ...rest }: ComponentProps<"input">) {
  return <input className={classes("input w-full", className)} {...rest} />;
}

export function Select({ className, ...rest }: ComponentProps<"select">) {
  return <select className={classes("select w-full", className)} {...rest} />;
}

export function TextArea({ className, ...rest }: ComponentProps<"textarea">) {
  return <textarea className={classes("textarea w-full", className)} {...rest} />;
}

export function Checkbox({ className, ...rest }: Omit<ComponentProps<"input">, "type">) {
  return <input type="checkbox" className={classes("checkbox checkbox-neutral", className)} {...rest} />;
}

export function Toggle({ className, ...rest }: Omit<ComponentProps<"input">, "type">) {
  // biome-ignore lint/a11y/useAriaPropsForRole: a native checkbox tells its own state
  return <input type="checkbox" role="switch" className={classes("toggle toggle-neutral", className)} {...rest} />;
}

export function Radio({ className, ...rest }: Omit<ComponentProps<"input">, "type">) {
  return <input type="radio" className={classes("radio radio-neutral", className)} {...rest} />;
}

export function Slider({ className, ...rest }: Omit<ComponentProps<"input">, "type">) {
  return <input type="range" className={classes("range range-xs w-full", className)} {...rest} />;
}

/** A file chooser that a button of ours opens: not seen, but there for readers and tests. */
export function HiddenFileInput({ className, ...rest }: Omit<ComponentProps<"input">, "type">) {
  return <input type="file" className={classes("sr-only", className)} tabIndex={-1} {...rest} />;
}
