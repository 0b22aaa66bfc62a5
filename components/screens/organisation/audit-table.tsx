"use client";
import { Download } from "lucide-react";
import { useState } from "react";
import { type AuditChoice, auditPath, useAudit } from "@/components/data/use-organisation";
import { Button, ButtonLink } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { ChoiceField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { AUDITED, type Audited } from "@/contracts/organisation";

const WHAT: (readonly [Audited | "", string])[] = [
  ["", "anything"],
  ...(Object.entries(AUDITED) as [Audited, string][]),
];

/** Sign-ins, exports, deletions, gateways: who, when and from where. */
export function AuditTable({ people }: { people: string[] }) {
  const { here } = useConventions();
  const [choice, setChoice] = useState<AuditChoice>({ what: "", who: "" });
  const { rows, problem, more } = useAudit(choice);
  return (
    <>
      <div className="flex flex-wrap items-end gap-3 mb-3">
        <ChoiceField
          label="Who"
          className="w-56"
          value={choice.who}
          options={[["", "anyone"], ...people.map((name) => [name, name] as const)]}
          onCommit={(who) => setChoice({ ...choice, who })}
        />
        <ChoiceField
          label="What"
          className="w-72"
          value={choice.what}
          options={WHAT}
          onCommit={(what) => setChoice({ ...choice, what })}
        />
        <ButtonLink icon={Download} href={auditPath("/api/organisation/audit/csv", choice)} download>
          Export as CSV
        </ButtonLink>
      </div>
      {problem && <Problem>{problem}</Problem>}
      {rows?.length === 0 && <p>Nothing of that yet.</p>}
      {rows !== null && rows.length > 0 && (
        <Scroller>
          <Table aria-label="Who did what">
            <thead>
              <tr>
                <th>When</th>
                <th>Who</th>
                <th>What</th>
                <th>About</th>
                <th>From</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr key={r.id}>
                  <td className="whitespace-nowrap">{here(r.at)}</td>
                  <td>{r.who}</td>
                  <td>{AUDITED[r.what]}</td>
                  <td>{r.about}</td>
                  <td className="text-faint">{r.address}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        </Scroller>
      )}
      {more && (
        <Button className="mt-2" onClick={more}>
          Older ones
        </Button>
      )}
    </>
  );
}
