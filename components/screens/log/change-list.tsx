/** What a revision changed, in words; the first few, or all. */
export function ChangeList({ changes, all }: { changes: { path: string; words: string }[]; all?: boolean }) {
  const shown = all ? changes : changes.slice(0, 3);
  return (
    <ul>
      {shown.map((c) => (
        <li key={`${c.path}${c.words}`}>{c.words}</li>
      ))}
    </ul>
  );
}
