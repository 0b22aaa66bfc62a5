"use client";
import { Scroller } from "@/components/kit/scroller";
import { RESPONSES } from "@/components/words/response-words";
import { Table } from "@/components/kit/table";
import { clean, type Patch } from "@/core/site-file/patch";
import { useMemo } from "react";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { ConnectionLimits } from "./connection-limits";
import { PressureLimits } from "./pressure-limits";
import { useWorkspace } from "@/components/draft/site-draft";
import { type Inherited, policyOfMain } from "@/core/judge/policy-of";
import { waterworks } from "@/core/network/waterworks";
import type { PolicyOverride } from "@/core/site-file/policy-schema";
import type { SiteFile } from "@/core/site-file/schema";

const WORDS: Record<string, string> = {
  ...Object.fromEntries(RESPONSES),
  unbroken: "every reading",
  share: "80 % of them",
  mean: "10 s mean",
};

/** Limits that a point of connection or a mainline has of its own; what is empty is inherited, and says from where. */
export function InheritedPanel() {
  const { draft } = useWorkspace("draft");
  const w = useMemo(() => waterworks(draft), [draft]);
  const own = draft.pocs.filter((p) => p.policy).length + draft.mainlines.filter((m) => m.policy).length;
  return (
    <section aria-label="Limits of connections and mains">
      <p className="font-semibold">
        {own === 0 ? "All as the site's" : `${own} with figures of ${own === 1 ? "its" : "their"} own`}.
      </p>
      <p className="mb-2 max-w-prose text-faint">
        Percentages hold for the stations on it, unless a station has its own. Persistence and responses hold where all
        of a set hangs on it. Graded limits go by the site alone.
      </p>
      <Scroller>
        <Table>
          <thead>
            <tr>
              <th>Where</th>
              <th>High, %</th>
              <th>Low, %</th>
              <th>Persistence, s</th>
              <th>Persistence is</th>
              <th>When high</th>
              <th>When low</th>
            </tr>
          </thead>
          <tbody>
            {draft.pocs.map((p) => (
              <Row key={p.id} kind="pocs" at={p} above={{ policy: draft.policy, from: {} }} />
            ))}
            {draft.mainlines.map((m, i) => (
              <Row key={m.id} kind="mainlines" at={m} above={without(draft, w, i)} />
            ))}
          </tbody>
        </Table>
      </Scroller>
      <ConnectionLimits />
      <PressureLimits />
    </section>
  );
}

/** What a mainline would inherit if it had nothing of its own. */
function without(site: SiteFile, w: ReturnType<typeof waterworks>, main: number): Inherited {
  const mainlines = site.mainlines.map((m, i) => {
    if (i !== main) return m;
    const { policy: _, ...rest } = m;
    return rest;
  });
  return policyOfMain({ ...w, site: { ...site, mainlines } }, main);
}

function Row({
  kind,
  at,
  above,
}: {
  kind: "pocs" | "mainlines";
  at: { id: string; name: string; policy?: PolicyOverride | undefined };
  above: Inherited;
}) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const put = (values: Patch<PolicyOverride>): void =>
    edit(
      (f) =>
        ({
          ...f,
          [kind]: (f[kind] as { id: string; policy?: PolicyOverride }[]).map((x) => {
            if (x.id !== at.id) return x;
            const policy = clean<PolicyOverride>({ ...x.policy, ...values });
            const { policy: _, ...rest } = x;
            return Object.keys(policy).length > 0 ? { ...rest, policy } : rest;
          }),
        }) as SiteFile,
    );
  const from = (key: keyof PolicyOverride): string => {
    const id = above.from[key];
    return id === undefined ? "site" : ([...draft.pocs, ...draft.mainlines].find((x) => x.id === id)?.name ?? id);
  };
  const number = (key: "highPercent" | "lowPercent" | "persistenceS", label: string, max: number): React.ReactNode => (
    <NumberField
      label={`${label} of ${at.name}`}
      hideLabel
      value={at.policy?.[key]}
      min={key === "persistenceS" ? 0 : 1}
      max={max}
      whole={key === "persistenceS"}
      disabled={!canEdit}
      placeholder={`${above.policy[key]} (${from(key)})`}
      onCommit={(v) => put({ [key]: v })}
    />
  );
  const choice = (
    key: "judge" | "highResponse" | "lowResponse",
    label: string,
    options: readonly string[],
  ): React.ReactNode => (
    <ChoiceField
      label={`${label} of ${at.name}`}
      hideLabel
      value={at.policy?.[key] ?? ""}
      disabled={!canEdit}
      options={[
        ["", `${WORDS[above.policy[key] ?? "unbroken"]} (${from(key)})`],
        ...options.map((o) => [o, WORDS[o] as string] as const),
      ]}
      onCommit={(v) => put({ [key]: v === "" ? undefined : v })}
    />
  );
  const responses = RESPONSES.map(([r]) => r);
  return (
    <tr>
      <td>
        {kind === "pocs" ? "connection" : "main"} <strong>{at.name}</strong>
      </td>
      <td className="w-28">{number("highPercent", "High limit", 1000)}</td>
      <td className="w-28">{number("lowPercent", "Low limit", 100)}</td>
      <td className="w-28">{number("persistenceS", "Persistence", 86_400)}</td>
      <td className="w-48">{choice("judge", "School of persistence", ["unbroken", "share", "mean"])}</td>
      <td className="w-44">{choice("highResponse", "Response when high", responses)}</td>
      <td className="w-44">{choice("lowResponse", "Response when low", responses)}</td>
    </tr>
  );
}
