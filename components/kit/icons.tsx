import { classes } from "./classes";

/** Signs that lucide has not, in its stroke and on its grid of 24. */
type Props = { className?: string; "aria-hidden"?: boolean };

function Drawn({ className, children, ...rest }: Props & { children: React.ReactNode }) {
  return (
    // biome-ignore lint/a11y/noSvgWithoutTitle: a sign beside its word
    <svg
      viewBox="0 0 24 24"
      fill="none"
      stroke="currentColor"
      strokeWidth="2"
      strokeLinecap="round"
      strokeLinejoin="round"
      className={classes(className)}
      aria-hidden={rest["aria-hidden"] ?? true}
    >
      {children}
    </svg>
  );
}

/** A view beside others: a pipe that leaves the main. */
export function BranchIcon({ open, ...props }: Props & { open?: boolean }) {
  return (
    <Drawn {...props}>
      <path d="M4 3v10h9" />
      <rect x="13" y="9" width="8" height="8" rx="1" fill={open ? "currentColor" : "none"} />
    </Drawn>
  );
}

export function MeterIcon(props: Props) {
  return (
    <Drawn {...props}>
      <path d="M2 12h4M18 12h4" />
      <circle cx="12" cy="12" r="6" />
      <path d="m12 12 3-2.5" />
    </Drawn>
  );
}

export function MasterValveIcon(props: Props) {
  return (
    <Drawn {...props}>
      <path d="M2 15h3M19 15h3" />
      <path d="M5 10v10l14-10v10Z" />
      <path d="M12 15V5M8 5h8" />
    </Drawn>
  );
}

/** Where a pipe is narrowest: what binds. */
export function PinchIcon(props: Props) {
  return (
    <Drawn {...props}>
      <path d="M2 6c6 0 7 4 10 4s4-4 10-4M2 18c6 0 7-4 10-4s4 4 10 4" />
    </Drawn>
  );
}

/** An alarm in the night. */
export function StoneIcon(props: Props) {
  return (
    <Drawn {...props}>
      <path d="M8 3h8l5 5v8l-5 5H8l-5-5V8Z" />
      <path d="M12 8v5M12 16.5v.1" />
    </Drawn>
  );
}
