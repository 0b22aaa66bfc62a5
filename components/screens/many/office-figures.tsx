"use client";
import { useId } from "react";
import { useGroups } from "@/components/data/use-groups";
import { usePeople } from "@/components/data/use-people";
import { ChoiceField, TextField } from "@/components/kit/fields";
import { GROUP_KINDS } from "@/contracts/groups";
import type { OfficeChange, OfficeKind } from "@/contracts/office-change";

type Put = (change: OfficeChange) => void;

/** A change of a kind to begin with. */
export const usualOffice = (kind: OfficeKind): OfficeChange =>
  kind === "group" ? { kind, group: "client", name: null } : { kind, personId: "", name: "", sees: true };

/** By what the sites are sorted then, or who sees them. */
export function OfficeFigures({ change, put }: { change: OfficeChange; put: Put }) {
  return change.kind === "group" ? <Group change={change} put={put} /> : <Person change={change} put={put} />;
}

type Of<K extends OfficeKind> = { change: Extract<OfficeChange, { kind: K }>; put: Put };

function Group({ change, put }: Of<"group">) {
  const id = useId();
  const { view } = useGroups();
  return (
    <>
      <ChoiceField
        label="Which"
        value={change.group}
        options={GROUP_KINDS.map((k) => [k, k] as const)}
        onCommit={(group) => put({ ...change, group, name: null })}
      />
      <TextField
        label={`Name of the ${change.group}`}
        hint="One that is there, or a new one. Empty: none."
        suggestions={`${id}-groups`}
        value={change.name ?? ""}
        onCommit={(name) => put({ ...change, name: name.trim() === "" ? null : name.trim() })}
      />
      <datalist id={`${id}-groups`}>
        {(view?.groups ?? []).flatMap((g) => (g.kind === change.group ? [<option key={g.id} value={g.name} />] : []))}
      </datalist>
    </>
  );
}

function Person({ change, put }: Of<"person">) {
  const { view } = usePeople();
  const some = (view?.people ?? []).filter((p) => p.sites !== null);
  if (view && some.length === 0)
    return (
      <p className="text-faint">Everybody sees every site. Who is to see some only is given them under Organisation.</p>
    );
  return (
    <>
      <ChoiceField
        label="Person who sees some sites only"
        value={change.personId}
        options={[["", "choose"] as const, ...some.map((p) => [p.id, p.name] as const)]}
        onCommit={(personId) => put({ ...change, personId, name: some.find((p) => p.id === personId)?.name ?? "" })}
      />
      <ChoiceField
        label="The sites"
        value={change.sees ? "sees" : "not"}
        options={[
          ["sees", "are seen by them"],
          ["not", "are no longer seen by them"],
        ]}
        onCommit={(to) => put({ ...change, sees: to === "sees" })}
      />
    </>
  );
}
