/** A part of a page under a head of its own, ruled off. */
export function Section({ id, title, children }: { id: string; title: string; children: React.ReactNode }) {
  return (
    <section aria-labelledby={id} className="mb-8">
      <h2 id={id} className="text-xl border-b-2 border-base-content mb-2">
        {title}
      </h2>
      {children}
    </section>
  );
}
