import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { Table } from "@/components/kit/table";
import { LETTER_WORDS } from "@/components/words/letter-words";
import type { LetterView } from "@/contracts/telling";

/** Letters with what became of each. @property withTo to whom each goes, where that is not plain */
export function Letters({ label, letters, withTo }: { label: string; letters: LetterView[]; withTo?: boolean }) {
  const { here } = useConventions();
  return (
    <Table aria-label={label}>
      <thead>
        <tr>
          <th>Written</th>
          {withTo && <th>To</th>}
          <th>Subject</th>
          <th>State</th>
        </tr>
      </thead>
      <tbody>
        {letters.map((l) => (
          <tr key={l.id}>
            <td className="whitespace-nowrap">{here(l.madeAt)}</td>
            {withTo && <td>{l.to}</td>}
            <td>{l.subject}</td>
            <td className={classes(l.state !== "sent" && l.problem !== null && "text-error")}>
              {LETTER_WORDS[l.state]}
              {l.problem !== null && (
                <span className="block text-xs">
                  {l.tries > 1 && `tried ${l.tries} times; `}
                  {l.problem}
                </span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
