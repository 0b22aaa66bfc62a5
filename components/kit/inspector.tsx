import { classes } from "./classes";

/** Picture first, and beside it what is selected: 320 px that scroll on their own. On a narrow screen it comes below. */
export function WithInspector({
  label,
  inspector,
  className,
  children,
}: {
  label: string;
  inspector: React.ReactNode;
  className?: string;
  children: React.ReactNode;
}) {
  return (
    <div className={classes("grid grid-cols-1 gap-x-6 gap-y-4 lg:grid-cols-[minmax(0,1fr)_20rem]", className)}>
      <div className="min-w-0">{children}</div>
      <aside
        aria-label={label}
        className="no-print min-w-0 lg:sticky lg:top-[6.5rem] lg:max-h-[calc(100dvh-10rem)] lg:self-start lg:overflow-y-auto lg:border-l lg:border-base-300 lg:pl-4"
      >
        {inspector}
      </aside>
    </div>
  );
}

/** A head of the inspector: what is selected, its name, and one line about it. */
export function InspectorHead({ over, title, under }: { over?: string; title: string; under?: React.ReactNode }) {
  return (
    <div className="mb-2">
      {over && <p className="text-xs text-faint">{over}</p>}
      <h3 className="text-lg">{title}</h3>
      {under && <p className="text-xs text-faint">{under}</p>}
    </div>
  );
}

/** A part of the inspector under a hairline. */
export function InspectorPart({ title, children }: { title: React.ReactNode; children: React.ReactNode }) {
  return (
    <section className="mt-4">
      <h3 className="mb-1 border-b border-base-300 pb-1 font-semibold">{title}</h3>
      {children}
    </section>
  );
}
