import type { LucideIcon } from "lucide-react";
import Link from "next/link";
import type { ComponentProps, ComponentType } from "react";
import { classes } from "./classes";

/**
 * Four ranks, by weight: `main`, filled ink, one a screen; `plain`, paper-dark without outline; `quiet`, words and an icon; `danger`, alarm-outlined, for what
 * destroys. `bare` looks like what stands in it: a row or a figure that can be pressed.
 */
export type Rank = "main" | "plain" | "quiet" | "danger" | "bare";
export type Icon = LucideIcon | ComponentType<{ className?: string; "aria-hidden"?: boolean }>;

const RANKS: Record<Rank, string> = {
  main: "btn btn-neutral",
  plain: "btn btn-plain",
  quiet: "btn btn-ghost btn-quiet",
  danger: "btn btn-outline btn-error",
  bare: "cursor-pointer disabled:cursor-not-allowed text-left",
};
const SQUARE = "btn-square";

type Looks = { rank?: Rank | undefined; icon?: Icon | undefined };

function Inside({ icon: IconOf, children }: Looks & { children: React.ReactNode }) {
  return (
    <>
      {IconOf && <IconOf className="size-[1.1em] shrink-0" aria-hidden />}
      {children}
    </>
  );
}

export function Button({
  rank = "plain",
  icon,
  className,
  type = "button",
  children,
  ...rest
}: Looks & ComponentProps<"button">) {
  return (
    <button type={type} className={classes(RANKS[rank], className)} {...rest}>
      <Inside icon={icon}>{children}</Inside>
    </button>
  );
}

/** A button that is its icon; `label` is its name for everyone who does not see it, and its tooltip. */
export function IconButton({
  label,
  rank = "quiet",
  icon,
  className,
  type = "button",
  ...rest
}: Looks & Omit<ComponentProps<"button">, "children"> & { label: string; icon: Icon }) {
  return (
    <button type={type} aria-label={label} title={label} className={classes(RANKS[rank], SQUARE, className)} {...rest}>
      <Inside icon={icon}>{null}</Inside>
    </button>
  );
}

/** A way somewhere, in a button's dress. */
export function ButtonLink({
  rank = "plain",
  icon,
  className,
  children,
  ...rest
}: Looks & ComponentProps<typeof Link>) {
  const inside = <Inside icon={icon}>{children}</Inside>;
  const look = classes(RANKS[rank], className);
  // What is not a page of ours (a file to save) is asked of the server, not of the router.
  if (rest.download !== undefined)
    return (
      <a className={look} download={rest.download} href={String(rest.href)}>
        {inside}
      </a>
    );
  return (
    <Link className={look} {...rest}>
      {inside}
    </Link>
  );
}
