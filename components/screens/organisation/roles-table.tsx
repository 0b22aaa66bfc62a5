import { Check, Minus } from "lucide-react";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { ABILITIES, ROLES } from "@/contracts/roles";

/** What each role may do: the same table that the server's routes are held against. */
export function RolesTable() {
  return (
    <Scroller>
      <Table aria-label="What each role may do">
        <thead>
          <tr>
            <th>What</th>
            {ROLES.map((r) => (
              <th key={r}>{r}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ABILITIES.map(({ words, least }) => (
            <tr key={words}>
              <td className="max-w-prose">{words}</td>
              {ROLES.map((r) => {
                const may = ROLES.indexOf(r) >= ROLES.indexOf(least);
                return (
                  <td key={r}>
                    <span
                      className={may ? "inline-flex items-center gap-1" : "inline-flex items-center gap-1 text-faint"}
                    >
                      {may ? <Check className="size-4" aria-hidden /> : <Minus className="size-4" aria-hidden />}
                      {may ? "yes" : "no"}
                    </span>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </Table>
    </Scroller>
  );
}
